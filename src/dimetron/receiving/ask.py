"""Handing files over to the service, and waiting for what it says."""

from __future__ import annotations

import contextlib
import json
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from dimetron import apart
from dimetron.document.atomic import write_all, write_bytes
from dimetron.mesh.arrays import Floats
from dimetron.receiving.receiver import Answer, answer_of
from dimetron.receiving.service import ANSWER, ORDER, order_of

_LOOK_EVERY_S = 0.05
#: Longer than this no answer is waited for.
MOST_S = 300.0


class NoAnswer(RuntimeError):
    """The receiving end did not answer; the message says so."""


def handed_over(
    files: dict[str, bytes],
    main: str,
    receiver: str,
    size_mm: Floats | None,
    stop: Callable[[], bool] = apart.never,
) -> Answer:
    """What a receiver by its name says to files, of which ``main`` is ordered. The service runs in
    a process of its own over a folder of its own. Raises NoAnswer, NotWanted, WriteError."""
    with tempfile.TemporaryDirectory(prefix="dimetron-") as name:
        folder = Path(name)
        service = subprocess.Popen(
            [sys.executable, "-m", "dimetron.receiving", name, receiver, "--limited"],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        with service:
            try:
                write_all({folder / file: data for file, data in files.items()})
                # The order comes last: once it is there, all that it names is there too.
                write_bytes(folder / f"{main}{ORDER}", order_of(main, size_mm))
                return _waited(service, folder / f"{main}{ANSWER}", stop)
            finally:
                service.kill()


def _waited(service: subprocess.Popen[bytes], path: Path, stop: Callable[[], bool]) -> Answer:
    ends = time.monotonic() + MOST_S
    while time.monotonic() < ends and service.poll() is None:
        if stop():
            raise apart.NotWanted
        with contextlib.suppress(FileNotFoundError):
            return answer_of(json.loads(path.read_bytes()))
        time.sleep(_LOOK_EVERY_S)
    raise NoAnswer("The receiving end did not answer; try again with fewer faces.")
