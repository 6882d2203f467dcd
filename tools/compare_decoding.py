"""Databases of other projects, decoded here and by cantools: `python -m tools.compare_decoding FOLDER…` prints what differs and the sums.

Frames are by lot, 6 a message (400 to 3000 a database), multiplexers mostly with values that the database knows.
"""

from __future__ import annotations

import sys
from pathlib import Path

from pondrel.core.base.errors import ReadingError
from pondrel.core.bus.database import database_from
from tests.databases import compared, random_frames, with_known_branches

FORMATS = (".dbc", ".arxml", ".kcd", ".sym")


def main(folders: list[str]) -> int:
    """How many databases differ."""
    files = sorted(path for folder in folders for path in Path(folder).rglob("*") if path.suffix.lower() in FORMATS)
    read = messages = values = refused = differ = 0
    for path in files:
        try:
            database = database_from(path.read_bytes(), path.name)
        except ReadingError as error:
            print(error)
            continue
        read, messages = read + 1, messages + len(database.messages)
        frames = random_frames(database, 1, min(max(400, 6 * len(database.messages)), 3000))
        found = compared(database, with_known_branches(frames, database, 1))
        values, refused, differ = values + found.values, refused + sum(found.refused.values()), differ + bool(found.differing)
        for line in found.differing[:3]:
            print(f"{path.name}: {line}")
    print(f"{len(files)} files, {read} read with {messages} messages; {values} values compared, {differ} databases with a difference;")
    print(f"{refused} frames that cantools does not decode.")
    return differ


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
