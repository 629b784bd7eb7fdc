"""Asking a process of its own for a drawing, and ending it."""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass

from PIL import Image

from dimetron.border import border
from dimetron.imaging.errors import PictureError, Stopped
from dimetron.imaging.page import Page

#: Longer than this no drawing that anybody made takes.
MOST_S = 60.0
_LOOK_EVERY_S = 0.05


@dataclass(frozen=True, slots=True)
class Told:
    """What was found out about a file: see ``read.PictureInfo``. notes: what was odd about it."""

    kind: str
    extension: str
    size_px: tuple[int, int]
    mm_per_px: float | None
    pages: int
    notes: tuple[str, ...]


def never() -> bool:
    return False


def asked(
    data: bytes, name: str, page: Page, *, draw: bool, stop: Callable[[], bool] = never
) -> tuple[Told, Image.Image | None]:
    """Read a PDF, an SVG or a TIFF, and draw it if that is wanted (L, RGB or RGBA). stop: asked
    again and again whether the answer is not wanted any more.

    Raises PictureError, and Stopped if it was not.
    """
    head = json.dumps({"name": name, "page": page.number, "dpi": page.dpi, "draw": draw}).encode()
    with border(PictureError, name, "cannot be read just now; close other programs and try again."):
        child = _begun(head + b"\n", data)
    with child:
        try:
            answer = _answer(child, name, stop)
        finally:
            child.kill()
    return _read(answer, name)


def _begun(head: bytes, data: bytes) -> subprocess.Popen[bytes]:
    with os.fdopen(os.memfd_create("request"), "w+b") as request:
        request.write(head)
        request.write(data)
        request.seek(0)
        return subprocess.Popen(
            [sys.executable, "-m", "dimetron.imaging.apart"],
            stdin=request,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )


def _answer(child: subprocess.Popen[bytes], name: str, stop: Callable[[], bool]) -> bytes:
    ends = time.monotonic() + MOST_S
    while True:
        # What came so far is kept when the time is over.
        with contextlib.suppress(subprocess.TimeoutExpired):
            return child.communicate(timeout=_LOOK_EVERY_S)[0]
        if stop():
            raise Stopped(f"{name} was stopped.")
        if time.monotonic() > ends:
            raise PictureError(
                f"{name} takes more than {MOST_S:.0f} seconds to draw; save it as a picture (PNG) "
                "and bring that."
            )


def _read(answer: bytes, name: str) -> tuple[Told, Image.Image | None]:
    head, line, pixels = answer.partition(b"\n")
    if not line:
        # It came to its end without a word: its memory was used up, or its stack.
        raise PictureError(
            f"{name} cannot be drawn: it is damaged, or needs more memory than a drawing may; save "
            "it as a picture (PNG) and bring that."
        )
    told = json.loads(head)
    if "error" in told:
        raise PictureError(told["error"])
    w, h = told["size_px"]
    notes = tuple(told["notes"])
    found = Told(told["kind"], told["extension"], (w, h), told["mm_per_px"], told["pages"], notes)
    mode = told["drawn"]
    if not mode:
        return found, None
    if len(pixels) != len(mode) * w * h:
        raise PictureError(f"{name} came to an end while it was drawn; try again.")
    return found, Image.frombuffer(mode, (w, h), pixels, "raw", mode, 0, 1).copy()
