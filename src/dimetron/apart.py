"""Work in a process of its own, within limits of time and memory, which ends when nobody wants the
answer any more. ``answer`` is one side of it, ``begin`` and ``allow`` are the other's."""

from __future__ import annotations

import contextlib
import ctypes
import os
import resource
import signal
import subprocess
import sys
import time
from collections.abc import Callable, Iterable

_LOOK_EVERY_S = 0.05
_ENDS_WITH_PARENT = 1  # PR_SET_PDEATHSIG


class NotWanted(Exception):
    """Whoever asked does not want the answer any more."""


class TooLong(Exception):
    """It took longer than it may."""


def never() -> bool:
    """For what is always wanted."""
    return False


def answer(
    module: str, request: Iterable[bytes], most_s: float, stop: Callable[[], bool] = never
) -> bytes:
    """What a module, run for itself, writes when it is given a request. stop: asked again and again
    whether that is not wanted any more. Nothing (b"") comes of one that was ended by its limits.

    Raises NotWanted, TooLong, and OSError if there can be no process just now.
    """
    child = _begun(module, request)
    with child:
        try:
            return _waited(child, most_s, stop)
        finally:
            child.kill()


def _begun(module: str, request: Iterable[bytes]) -> subprocess.Popen[bytes]:
    with os.fdopen(os.memfd_create("request"), "w+b") as given:
        for part in request:
            given.write(part)
        given.seek(0)
        return subprocess.Popen(
            [sys.executable, "-m", module],
            stdin=given,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )


def _waited(child: subprocess.Popen[bytes], most_s: float, stop: Callable[[], bool]) -> bytes:
    ends = time.monotonic() + most_s
    while time.monotonic() < ends:
        # What came so far is kept when the time is over.
        with contextlib.suppress(subprocess.TimeoutExpired):
            return child.communicate(timeout=_LOOK_EVERY_S)[0]
        if stop():
            raise NotWanted
    raise TooLong


def begin(most_cpu_s: int, most_bytes: int) -> None:
    """In the process itself, first of all: it ends with the one that asked, lets that one go first,
    and keeps within its limits."""
    with contextlib.suppress(OSError, AttributeError):
        ctypes.CDLL(None).prctl(_ENDS_WITH_PARENT, signal.SIGKILL)
    with contextlib.suppress(OSError):
        os.nice(5)
    resource.setrlimit(resource.RLIMIT_CPU, (most_cpu_s, most_cpu_s))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    allow(most_bytes)


def allow(most_bytes: int) -> None:
    """In the process itself: so much memory from now on."""
    resource.setrlimit(resource.RLIMIT_AS, (most_bytes, resource.getrlimit(resource.RLIMIT_AS)[1]))
