"""Steps of history that are laid aside in the state folder while a window is open."""

from __future__ import annotations

import contextlib
import os
import shutil
from pathlib import Path

from dimetron.document.recovery import state_folder


class FolderSpool:
    """One window's folder, made when first needed, and gone with it. What a window that came to an
    end by itself left is cleared away by the next one."""

    def __init__(self) -> None:
        self._folder = state_folder().parent / "history" / f"{os.getpid()}-{id(self):x}"
        self._count = 0

    def put(self, data: bytes) -> str:
        """Lay bytes aside; returns their key. Raises OSError."""
        if not self._count:
            _clear_left(self._folder.parent)
            self._folder.mkdir(parents=True, exist_ok=True)
        self._count += 1
        key = str(self._count)
        (self._folder / key).write_bytes(data)
        return key

    def get(self, key: str) -> bytes:
        """What was laid aside under a key. Raises OSError."""
        return (self._folder / key).read_bytes()

    def close(self) -> None:
        """Remove everything that was laid aside."""
        shutil.rmtree(self._folder, ignore_errors=True)
        self._count = 0


def _clear_left(folder: Path) -> None:
    with contextlib.suppress(OSError):
        for left in folder.iterdir():
            process = left.name.partition("-")[0]
            if process.isdigit() and not _runs(int(process)):
                shutil.rmtree(left, ignore_errors=True)


def _runs(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:
        return True
    return True
