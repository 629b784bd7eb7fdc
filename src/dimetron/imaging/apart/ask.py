"""Asking a process of its own for a drawing, and ending it."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass

from PIL import Image

from dimetron import apart
from dimetron.border import border
from dimetron.imaging.errors import PictureError, Stopped
from dimetron.imaging.page import Page

#: Longer than this no drawing that anybody made takes.
MOST_S = 60.0


@dataclass(frozen=True, slots=True)
class Told:
    """What was found out about a file: see ``read.PictureInfo``. notes: what was odd about it."""

    kind: str
    extension: str
    size_px: tuple[int, int]
    mm_per_px: float | None
    pages: int
    focal: float | None
    notes: tuple[str, ...]


def asked(
    data: bytes, name: str, page: Page, *, draw: bool, stop: Callable[[], bool] = apart.never
) -> tuple[Told, Image.Image | None]:
    """Read a PDF, an SVG or what ``read`` leaves to it, and draw it if that is wanted (L, RGB or
    RGBA). stop: asked again and again whether the answer is not wanted any more.

    Raises PictureError, and Stopped if it was not.
    """
    head = json.dumps({"name": name, "page": page.number, "dpi": page.dpi, "draw": draw}).encode()
    busy = "cannot be read just now; close other programs and try again."
    with border(PictureError, name, busy):
        try:
            told = apart.answer("dimetron.imaging.apart", (head, b"\n", data), MOST_S, stop)
        except apart.NotWanted as error:
            raise Stopped(f"{name} was stopped.") from error
        except apart.TooLong as error:
            raise PictureError(
                f"{name} takes more than {MOST_S:.0f} seconds to draw; save it as a picture (PNG) "
                "and bring that."
            ) from error
    return _read(told, name)


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
    found = Told(
        told["kind"], told["extension"], (w, h), told["mm_per_px"], told["pages"], told["focal"],
        notes,
    )  # fmt: skip
    mode = told["drawn"]
    if not mode:
        return found, None
    if len(pixels) != len(mode) * w * h:
        raise PictureError(f"{name} came to an end while it was drawn; try again.")
    return found, Image.frombuffer(mode, (w, h), pixels, "raw", mode, 0, 1).copy()
