"""The service as a process: it watches a folder as a receiver by its name."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from dimetron import apart
from dimetron.document.atomic import WriteError
from dimetron.receiving.receiver import receivers
from dimetron.receiving.service import watch

#: What it may take where a window began it.
_MOST_CPU_S, _MOST_BYTES = 600, 8 << 30


def main(words: Sequence[str], ended: Callable[[], bool] = apart.never) -> int:
    """Watch until that is enough; 0, or 2 with one line on standard error."""
    parser = argparse.ArgumentParser(
        prog="python -m dimetron.receiving",
        description="A made-up receiving end: answers what is put into a folder.",
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("receiver", choices=tuple(receivers()))
    parser.add_argument("--limited", action="store_true", help=argparse.SUPPRESS)
    given = parser.parse_args(words)
    if given.limited:
        apart.begin(_MOST_CPU_S, _MOST_BYTES)
    if not given.folder.is_dir():
        print(f"{given.folder}: there is no such folder; make it first.", file=sys.stderr)
        return 2
    try:
        watch(given.folder, receivers()[given.receiver], ended)
    except WriteError as error:
        print(error, file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 0
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
