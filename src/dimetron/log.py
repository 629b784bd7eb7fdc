"""The log: how errors came about that were told in one sentence."""

from __future__ import annotations

import logging
import os
from logging.handlers import RotatingFileHandler
from pathlib import Path

_MOST_BYTES = 1 << 20


def log_file() -> Path:
    """In the user's state folder for Dimetron (XDG)."""
    base = os.environ.get("XDG_STATE_HOME") or str(Path.home() / ".local" / "state")
    return Path(base) / "dimetron" / "dimetron.log"


class _Quiet(RotatingFileHandler):
    """A log that cannot be written is no reason to say anything."""

    def handleError(self, record: logging.LogRecord) -> None:
        return

    def emit(self, record: logging.LogRecord) -> None:
        try:
            log_file().parent.mkdir(parents=True, exist_ok=True)
        except OSError:
            return
        super().emit(record)


def begin() -> None:
    """Write down from now on what goes wrong; the file is made with the first record."""
    logger, path = logging.getLogger("dimetron"), str(log_file().absolute())
    for old in [h for h in logger.handlers if isinstance(h, _Quiet)]:
        if old.baseFilename == path:
            return
        logger.removeHandler(old)
        old.close()
    handler = _Quiet(
        path, maxBytes=_MOST_BYTES, backupCount=1, encoding="utf-8", delay=True,
        errors="backslashreplace",
    )  # fmt: skip
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logger.addHandler(handler)
