"""A screen for each process that runs tests, so that windows do not take the keyboard from each
other."""

from __future__ import annotations

import os
import shutil
import subprocess

_SIZE = "1600x1000x24"


class Screen:
    """Shown from when it is made until it is closed; none where there is no Xvfb."""

    def __init__(self) -> None:
        self._server: subprocess.Popen[bytes] | None = None
        program = shutil.which("Xvfb")
        if program is None:
            return
        reading, writing = os.pipe()
        arguments = ["-displayfd", str(writing), "-screen", "0", _SIZE, "-dpi", "96"]
        quiet = subprocess.DEVNULL
        self._server = subprocess.Popen(
            [program, *arguments, "-nolisten", "tcp"], pass_fds=(writing,), stderr=quiet
        )
        os.close(writing)
        with os.fdopen(reading) as told:
            os.environ["DISPLAY"] = f":{told.readline().strip()}"
        os.environ.pop("XAUTHORITY", None)

    def close(self) -> None:
        if self._server is not None:
            self._server.terminate()
            self._server.wait()
            self._server = None
