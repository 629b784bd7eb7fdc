"""Which window has a project open, for other windows to see: a lock on the file itself, which the
system lets go of when the window ends, however it ends."""

from __future__ import annotations

import fcntl
from pathlib import Path
from typing import BinaryIO

from dimetron.imaging.files import opened_file


class Hold:
    """A project that is open here. Where locks are not to be had it holds nothing."""

    def __init__(self, file: BinaryIO | None = None) -> None:
        self._file = file

    def let_go(self) -> None:
        """Others may have the file from now on."""
        if self._file is not None:
            self._file.close()
            self._file = None


def hold(path: Path) -> Hold | None:
    """Mark a project as open here; None if another window has it open."""
    try:
        file = opened_file(path)
    except OSError:
        # Nothing there yet, or nothing that can be read: there is nothing to hold.
        return Hold()
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        file.close()
        return None
    except OSError:
        # A file system without locks.
        file.close()
        return Hold()
    return Hold(file)
