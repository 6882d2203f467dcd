"""Makes one capture ready in a process of its own, so that nobody else waits for it: ``python -m pondrel.store.prepare_apart FILE TARGET
[FULL_SCALE]``. It writes the share that is done, a line each, then ``done`` with samples, step and channels as JSON; what is wrong with
the file goes as one sentence to the error stream, and it ends with 1."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from ..core.base.errors import PondrelError
from .prepared import Counted, prepare

__all__ = ["main"]


def main(source: str, target: str, full_scale: str = "") -> int:
    """Make it ready; the exit code."""

    def tell(share: float) -> None:
        print(f"{share:.3f}", flush=True)

    try:
        with Counted(Path(source), lambda share: tell(0.75 * share)) as stream:
            capture = prepare(stream, Path(target), float(full_scale) if full_scale else None, tell)
    except PondrelError as error:
        print(str(error), file=sys.stderr)
        return 1
    channels = [[channel.name, channel.unit] for channel in capture.channels]
    print(f"done {json.dumps({'count': capture.count, 'step': capture.step, 'channels': channels})}", flush=True)
    return 0


if __name__ == "__main__":
    sys.exit(main(*sys.argv[1:]))
