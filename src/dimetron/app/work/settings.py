"""Remembered settings, in the user's configuration folder."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSettings


def _file() -> Path:
    base = os.environ.get("XDG_CONFIG_HOME") or str(Path.home() / ".config")
    return Path(base) / "dimetron" / "dimetron.ini"


class Settings:
    """Typed reads over a QSettings file; a value of the wrong kind falls back to the default."""

    def __init__(self) -> None:
        self._store = QSettings(str(_file()), QSettings.Format.IniFormat)

    def text(self, key: str, default: str) -> str:
        value = self._store.value(key, default)
        return value if isinstance(value, str) else default

    def flag(self, key: str, default: bool) -> bool:
        return self.text(key, "yes" if default else "no") == "yes"

    def number(self, key: str, default: float) -> float:
        try:
            return float(self.text(key, str(default)))
        except ValueError:
            return default

    def set(self, key: str, value: str | bool) -> None:
        self._store.setValue(key, ("yes" if value else "no") if isinstance(value, bool) else value)

    def remove(self, key: str) -> None:
        self._store.remove(key)

    def raw(self, key: str) -> Any:
        return self._store.value(key)

    def set_raw(self, key: str, value: Any) -> None:
        self._store.setValue(key, value)
