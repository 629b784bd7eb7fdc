"""From lines in millimetres to a scanned pencil drawing: paper, pressure, wobble, grain."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw
from scipy import ndimage

from dimetron.geometry.placement import Placement
from dimetron.geometry.views import View
from dimetron.mesh.arrays import Floats

_SUPERSAMPLE = 3


@dataclass(frozen=True, slots=True)
class Scan:
    """How one drawing came in; also the truth about it.

    origin_px: where the world's origin lies in the picture. rotation_deg: how far the drawing's
    own right-axis is turned counter-clockwise in the picture. lengthened: factor along the
    drawing's up direction, for a drawing that contradicts the others.
    """

    view: View
    file: str
    size_px: tuple[int, int]
    origin_px: tuple[float, float]
    mm_per_px: float
    rotation_deg: float = 0.0
    lengthened: float = 1.0
    paper: tuple[int, int, int] = (246, 240, 226)
    line_px: float = 2.2
    seed: int = 1

    @property
    def true_placement(self) -> Placement:
        """The placement that undoes the scan: the picture's points at their true places."""
        return Placement(
            self.mm_per_px, self.origin_px, (0.0, 0.0), rotation_deg=-self.rotation_deg
        )


def drawn(scan: Scan, runs: list[Floats]) -> Image.Image:
    """The picture (RGB) of line runs (k, 2) in view-plane millimetres."""
    rng = np.random.default_rng(scan.seed)
    return on_paper(_strokes(scan, runs, rng), scan.paper, rng)


def on_paper(
    graphite: Floats, paper: tuple[int, int, int], rng: np.random.Generator, noise: float = 1.0
) -> Image.Image:
    """The scan (RGB) of graphite cover (h, w), 0..1, on tinted paper; ``noise`` scales the grain
    and the unevenness of the light."""
    h, w = graphite.shape
    grain = ndimage.gaussian_filter(rng.normal(size=(h, w)), 0.7)
    grain /= grain.std()
    # Graphite sits on the paper's tooth: pressed lines cover it, light ones show it.
    cover = np.clip(graphite * (1.08 + 0.16 * grain), 0, 1)
    shade = ndimage.gaussian_filter(rng.normal(size=(h // 16 + 2, w // 16 + 2)), 6)
    shade = ndimage.zoom(shade / max(shade.std(), 1e-9), 16, order=1)[:h, :w]
    light = 1 + noise * (0.006 * shade + 0.010 * grain)
    tinted = np.array(paper, float) * light[..., None]
    lead = np.array([58.0, 60.0, 66.0])
    picture = tinted * (1 - cover[..., None]) + lead * cover[..., None]
    return Image.fromarray(np.clip(np.rint(picture), 0, 255).astype(np.uint8), "RGB")


def _strokes(scan: Scan, runs: list[Floats], rng: np.random.Generator) -> Floats:
    """(h, w) graphite cover 0..1."""
    w, h = scan.size_px
    s = _SUPERSAMPLE
    sheet = Image.new("L", (w * s, h * s), 0)
    pen = ImageDraw.Draw(sheet)
    wobble = Wobble(scan.size_px, rng)
    lengthen = np.array([1.0, scan.lengthened])
    for guide in _guides(scan):
        _stroke(pen, wobble(scan.true_placement.to_px(guide)) * s, 62, scan.line_px * 0.7 * s)
    for run in runs:
        px = scan.true_placement.to_px(run * lengthen)
        steps = max(2, int(np.linalg.norm(px[-1] - px[0]) / 6))
        t = np.linspace(0, 1, steps)[:, None]
        points = wobble(px[0] * (1 - t) + px[-1] * t)
        # Pressure drifts slowly over the sheet, as a hand's does.
        press = 0.86 + 0.14 * wobble.pressure(points.mean(axis=0))
        _stroke(pen, points * s, int(205 * press), scan.line_px * s * (0.9 + 0.2 * press))
    small = sheet.reduce(s)
    return np.asarray(ndimage.gaussian_filter(np.asarray(small, float) / 255, 0.55))


def _stroke(pen: ImageDraw.ImageDraw, points: Floats, strength: int, width: float) -> None:
    path = [(float(x), float(y)) for x, y in points]
    pen.line(path, strength, round(width), joint="curve")
    r = width / 2
    for x, y in (path[0], path[-1]):
        pen.ellipse([x - r, y - r, x + r, y + r], strength)


def _guides(scan: Scan) -> list[Floats]:
    """Faint construction lines: a dash-dotted centreline and the ground."""
    w, h = scan.size_px
    corners = scan.true_placement.to_plane(np.array([[0.0, 0.0], [w, h]]))
    top, bottom = corners[0, 1] * 0.97, corners[1, 1] * 0.9
    lines = []
    at, dash = bottom, 0
    while at < top:
        step = (9.0, 2.5, 1.5, 2.5)[dash % 4]
        if dash % 2 == 0:
            lines.append(np.array([[0.0, at], [0.0, min(at + step, top)]]))
        at, dash = at + step, dash + 1
    if scan.view.axes[1] == 2:
        lines.append(np.array([[corners[0, 0] * 0.93, 0.0], [corners[1, 0] * 0.95, 0.0]]))
    return lines


class Wobble:
    """A smooth displacement of the sheet, so that strokes that meet still meet."""

    def __init__(self, size_px: tuple[int, int], rng: np.random.Generator) -> None:
        w, h = size_px
        self._step = 24.0
        shape = (int(h / self._step) + 4, int(w / self._step) + 4)
        fields = [ndimage.gaussian_filter(rng.normal(size=shape), 1.3) for _ in range(3)]
        self._fields = [f / f.std() for f in fields]

    def _at(self, field: Floats, points: Floats) -> Floats:
        where = points[:, ::-1].T / self._step + 1
        return np.asarray(ndimage.map_coordinates(field, where, order=1, mode="nearest"))

    def __call__(self, points: Floats) -> Floats:
        shift = np.stack([self._at(f, points) for f in self._fields[:2]], axis=1)
        return np.asarray(points + 0.55 * shift)

    def pressure(self, point: Floats) -> float:
        return float(np.clip(self._at(self._fields[2], point[None])[0], -1, 1))


def encoded(picture: Image.Image, file: str) -> bytes:
    """PNG or JPEG bytes, by the file's ending."""
    out = io.BytesIO()
    if file.endswith(".jpg"):
        picture.save(out, "JPEG", quality=90)
    else:
        picture.save(out, "PNG", compress_level=2)
    return out.getvalue()
