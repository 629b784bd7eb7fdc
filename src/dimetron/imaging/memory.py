"""How much memory may still be taken, asked before something large is made."""

from __future__ import annotations

import resource
from pathlib import Path

#: Of what is free, at most this much is taken for one thing.
_SHARE = 0.8
#: What is smaller is not asked about.
_FREE_OF_DOUBT = 64 << 20
_CGROUP = Path("/sys/fs/cgroup")


def there_is(needed: int) -> bool:
    """Whether so many bytes more can be taken without bringing the machine to a stop."""
    return needed <= _FREE_OF_DOUBT or needed <= free() * _SHARE


def free() -> float:
    """Bytes that this process may still take: of the machine, its group, and its own limit."""
    return min(_of_machine(), _of_group(), _of_process())


def _of_machine() -> float:
    try:
        lines = Path("/proc/meminfo").read_text("ascii").splitlines()
    except OSError:
        return float("inf")
    told = {line.split()[0]: int(line.split()[1]) * 1024 for line in lines if len(line.split()) > 1}
    return float(told.get("MemAvailable:", "inf"))


def _of_group() -> float:
    try:
        most = (_CGROUP / "memory.max").read_text("ascii").strip()
        return (
            float("inf")
            if most == "max"
            else int(most) - int((_CGROUP / "memory.current").read_text("ascii"))
        )
    except (OSError, ValueError):
        return float("inf")


def _of_process() -> float:
    most, _ = resource.getrlimit(resource.RLIMIT_AS)
    if most == resource.RLIM_INFINITY:
        return float("inf")
    try:
        pages = int(Path("/proc/self/statm").read_text("ascii").split()[0])
    except (OSError, ValueError, IndexError):
        return float(most)
    return float(most - pages * resource.getpagesize())
