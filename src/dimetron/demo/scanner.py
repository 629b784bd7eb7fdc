"""A scanner without hardware: it scans the workshop's paper sheets, laid on the glass by hand, so
a little askew each time, with the paper's tint and a sensor's noise."""

from __future__ import annotations

import math
import time

import cv2
import numpy as np

from dimetron.demo import project
from dimetron.imaging.prepare import pixels_of
from dimetron.imaging.read import Pixels, decode
from dimetron.imaging.scanner import Progress, ScanSettings, empty_scan

_ROWS = 96
#: A carriage takes its time: seconds for each band of rows at 200 dpi.
_BAND_S = 0.012
_LID = (236.0, 236.0, 238.0)


class WorkshopScanner:
    """Fulfils ``imaging.scanner.Scanner``."""

    name = "Workshop scanner (simulated)"
    resolutions = (100, 150, 200, 300, 400)

    def __init__(self, seed: int = 7) -> None:
        self._rng = np.random.default_rng(seed)

    @property
    def originals(self) -> tuple[tuple[str, str], ...]:
        return tuple((p.name, p.title) for p in project.PROPS.values() if p.sheet is not None)

    def scan(self, settings: ScanSettings, progress: Progress) -> Pixels | None:
        sheet, dpi = _original(settings.original)
        out = empty_scan(settings)
        h, w = out.shape[:2]
        to_sheet = self._laid(settings.dpi, dpi)
        for row in range(0, h, _ROWS):
            rows = min(_ROWS, h - row)
            band = np.array([[1, 0, 0], [0, 1, row], [0, 0, 1.0]])
            part = cv2.warpAffine(
                sheet, (to_sheet @ band)[:2], (w, rows),
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_CONSTANT, borderValue=_LID,
            )  # fmt: skip
            noise = self._rng.normal(scale=1.6, size=part.shape)
            lit = np.clip(part + noise, 0, 255).astype(np.uint8)
            if not settings.colour:
                lit = cv2.cvtColor(lit, cv2.COLOR_RGB2GRAY)[..., None]
            out[row : row + rows] = lit
            time.sleep(_BAND_S)
            if not progress(out, row + rows):
                return None
        return out

    def _laid(self, dpi: float, sheet_dpi: float) -> np.ndarray:
        """(3, 3) from scan pixels to the sheet's: put down by hand, 1 mm off and askew."""
        scale = sheet_dpi / dpi
        a = math.radians(float(self._rng.normal(scale=0.7)))
        off = self._rng.normal(scale=1.0, size=2) * sheet_dpi / 25.4
        c, s = math.cos(a) * scale, math.sin(a) * scale
        return np.array([[c, -s, off[0]], [s, c, off[1]], [0, 0, 1.0]])


def _original(name: str) -> tuple[Pixels, float]:
    prop = project.PROPS[name]
    assert prop.sheet is not None
    from dimetron.demo import shelf

    source = shelf.project(name).sources[0]
    assert source.data is not None
    return pixels_of(decode(source.data, source.name).image), prop.sheet.dpi
