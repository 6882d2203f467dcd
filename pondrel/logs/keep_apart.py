"""Keeps one log's columns in a process of its own, so that nobody waits for it: ``python -m pondrel.logs.keep_apart FILE TARGET NAME``.

It writes the share that is done, a line each, then ``done`` with frames, seconds and channels as JSON; what is wrong with the file goes
as one sentence to the error stream, and it ends with 1.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

from ..core.base.errors import PondrelError
from .kept import KeptLog, keep

__all__ = ["found_in", "main"]


def found_in(log: KeptLog) -> dict[str, object]:
    """What a log's row tells of it."""
    return {"frames": len(log.frames), "seconds": log.seconds, "channels": list(log.channels)}


def main(source: str, target: str, name: str) -> int:
    """Keep it; the exit code."""
    try:
        log = keep(Path(source), Path(target), name, lambda share: print(f"{share:.3f}", flush=True))
    except PondrelError as error:
        print(str(error), file=sys.stderr)
        return 1
    print(f"done {json.dumps(found_in(log))}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
