"""Whether there is a screen to open a window on, asked before Qt is: Qt would abort without a word
that helps."""

from __future__ import annotations

import ctypes
import os
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import PySide6

#: Where Qt's own parts lie in its wheel.
QT_PLUGINS = Path(PySide6.__file__).parent / "Qt" / "plugins"
_ADVICE = "install it (on Debian and Ubuntu ./run setup does)"


def display_problem() -> str:
    """A sentence on why no window can be opened, or an empty one."""
    platform = os.environ.get("QT_QPA_PLATFORM", "")
    if platform and not platform.startswith(("xcb", "wayland")):
        return ""
    if _wayland_answers():
        return ""
    name = os.environ.get("DISPLAY", "")
    if not name:
        return (
            "There is no display to open a window on: neither DISPLAY nor WAYLAND_DISPLAY is set; "
            "start Dimetron in a desktop session."
        )
    return _x_problem(name) or _plugin_problem()


def _wayland_answers() -> bool:
    name = os.environ.get("WAYLAND_DISPLAY", "")
    if not name:
        return False
    path = Path(os.environ.get("XDG_RUNTIME_DIR", "/run")) / name
    with socket.socket(socket.AF_UNIX) as other:
        try:
            other.connect(str(path))
        except (OSError, ValueError):
            return False
    return True


def _x_problem(name: str) -> str:
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return f"The library libxcb.so.1 is missing; {_ADVICE}."
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connect.argtypes = (ctypes.c_char_p, ctypes.c_void_p)
    for call in (xcb.xcb_connection_has_error, xcb.xcb_disconnect):
        call.argtypes = (ctypes.c_void_p,)
    with _hushed():
        connection = xcb.xcb_connect(None, None)
        broken = xcb.xcb_connection_has_error(connection)
        xcb.xcb_disconnect(connection)
    if broken:
        return f"The display {name} cannot be reached, or does not let you in; check DISPLAY."
    return ""


@contextmanager
def _hushed() -> Iterator[None]:
    """The library has words of its own for standard error; one sentence is enough."""
    try:
        kept, nowhere = os.dup(2), os.open(os.devnull, os.O_WRONLY)
    except OSError:
        yield
        return
    try:
        os.dup2(nowhere, 2)
        yield
    finally:
        os.dup2(kept, 2)
        os.close(kept)
        os.close(nowhere)


def _plugin_problem() -> str:
    """Qt's own part for X needs libraries that a bare machine lacks."""
    try:
        ctypes.CDLL(str(QT_PLUGINS / "platforms" / "libqxcb.so"))
    except OSError as error:
        missing = str(error).partition(":")[0]
        return f"The library {missing} is missing; {_ADVICE}."
    return ""
