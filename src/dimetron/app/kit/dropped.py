"""Files that are dropped or pasted."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QMimeData


def local_files(mime: QMimeData) -> list[Path]:
    """Those of this machine; links to elsewhere are none."""
    return [Path(url.toLocalFile()) for url in mime.urls() if url.isLocalFile()]
