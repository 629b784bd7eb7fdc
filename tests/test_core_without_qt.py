"""The core is a library of its own: everything under the window imports without Qt."""

from __future__ import annotations

import subprocess
import sys

_CODE = """
import sys, pkgutil, importlib
for name in ("PySide6", "shiboken6"):
    sys.modules[name] = None
import dimetron
for package in (
    "geometry", "imaging", "mesh", "document", "formats", "render", "demo", "registration",
    "outlines", "app.tools",
):
    module = importlib.import_module(f"dimetron.{package}")
    for found in pkgutil.walk_packages(module.__path__, module.__name__ + "."):
        importlib.import_module(found.name)
import dimetron.cli
import dimetron.app.board.layout, dimetron.app.board.sight, dimetron.app.board.canvas
print("ok")
"""


def test_the_core_and_the_tools_import_without_qt() -> None:
    done = subprocess.run(
        [sys.executable, "-W", "error", "-c", _CODE], capture_output=True, text=True, check=False
    )
    assert done.stdout.strip() == "ok", done.stderr
