"""The service as a process: a folder and a receiver's name; it ends with the one that began it."""

from __future__ import annotations

import sys
from pathlib import Path

from dimetron import apart
from dimetron.receiving.receiver import receivers
from dimetron.receiving.service import watch

#: What it may take.
_MOST_CPU_S, _MOST_BYTES = 600, 8 << 30


def main() -> None:
    """Watch the folder within limits."""
    apart.begin(_MOST_CPU_S, _MOST_BYTES)
    watch(Path(sys.argv[1]), receivers()[sys.argv[2]], apart.never)


if __name__ == "__main__":
    main()
