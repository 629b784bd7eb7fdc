"""The recognition model for lines of print (PP-OCR, Apache licence), run by OpenCV.

The model lies in the package ``rapidocr``. Its own code is not loaded: it would take another
runtime, as large as OpenCV, and most of a second to import.
"""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from importlib.util import find_spec
from pathlib import Path
from threading import Lock

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float32]
#: Fields of ONNX's ModelProto and of its StringStringEntryProto.
_METADATA, _KEY, _VALUE = 14, 1, 2
_CHARACTERS = b"character"
_PACKAGE, _FILES = "rapidocr", "models/*_rec_*.onnx"


class Recogniser:
    """Takes pictures of lines to what stands in them. One at a time: a network has one input."""

    def __init__(self, path: Path) -> None:
        self._network = cv2.dnn.readNetFromONNX(str(path))
        # Number 0 is "nothing here"; the space comes last.
        self._characters = ["", *_characters(path.read_bytes()), " "]
        self._lock = Lock()

    def read(self, line: Floats) -> tuple[str, float]:
        """What a line (1, 3, 48, w) of BGR from -1 to 1 says, and how sure that is, 0 to 1."""
        with self._lock:
            self._network.setInput(line)
            likely = np.array(self._network.forward()[0])
        best = likely.argmax(axis=1)
        # The same number again is the same letter, unless there is nothing in between.
        new = np.append(True, best[1:] != best[:-1]) & (best > 0)
        if not new.any():
            return "", 0.0
        text = "".join(self._characters[i] for i in best[new])
        return text, float(likely.max(axis=1)[new].mean())


@cache
def recogniser() -> Recogniser | None:
    """The one recogniser there is; None where its model is not installed."""
    spec = find_spec(_PACKAGE)
    places = (spec.submodule_search_locations or []) if spec else []
    found = [path for place in places for path in sorted(Path(place).glob(_FILES))]
    return Recogniser(found[0]) if found else None


def _characters(model: bytes) -> list[str]:
    """The letters that the numbers stand for, from the model's metadata."""
    for field, entry in _fields(model):
        if field == _METADATA:
            parts = dict(_fields(entry))
            if bytes(parts[_KEY]) == _CHARACTERS:
                return bytes(parts[_VALUE]).decode().split("\n")
    raise ValueError("the model does not say what its numbers stand for")


def _fields(data: bytes | memoryview) -> Iterator[tuple[int, memoryview]]:
    """Number and content of those fields of a protocol buffer's message that have a length."""
    view, at = memoryview(data), 0
    while at < len(view):
        tag, at = _number(view, at)
        value, at = _number(view, at)
        if tag & 7 == 2:
            yield tag >> 3, view[at : at + value]
            at += value


def _number(view: memoryview, at: int) -> tuple[int, int]:
    """A number of variable length, and where it ends."""
    value = shift = 0
    while True:
        byte = view[at]
        value |= (byte & 0x7F) << shift
        at, shift = at + 1, shift + 7
        if not byte & 0x80:
            return value, at
