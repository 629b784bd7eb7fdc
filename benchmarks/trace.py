"""Trace: following and tracing ink, dragging points, solids of outlines, blocking out; and how
exact tracing is on drawings of another hand, whose truth is known."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from itertools import pairwise

import cv2
import manifold3d
import numpy as np
from PIL import Image

from benchmarks.by_another import by_another
from benchmarks.objects import OBJECTS
from benchmarks.timing import fact, in_turn, report, row
from dimetron.document.making import makers, remade, with_made
from dimetron.document.model import Document
from dimetron.document.outline import Outline, with_outline, with_path
from dimetron.geometry.views import View
from dimetron.imaging.medium import medium_of
from dimetron.imaging.pyramid import build
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.solids.common import common
from dimetron.mesh.solids.nets import even_quads
from dimetron.mesh.solids.seen import Seen
from dimetron.mesh.solids.within import signed_area
from dimetron.outlines import edit
from dimetron.outlines.apart import apart
from dimetron.outlines.follow import run_along, ways_from
from dimetron.outlines.ink import inked
from dimetron.outlines.path import Path, area, path_of, sampled
from dimetron.outlines.silhouette import silhouette
from dimetron.outlines.trace import distances, trace, traced

SIZE = 4000, 3000


def main() -> None:
    report(*_ink(), *_edits(), *_solids(), *_exactness(), *_silhouettes())


def _drawing() -> Image.Image:
    """Twelve megapixels of ellipses and lines with grain."""
    rng = np.random.default_rng(2)
    grey = np.full(SIZE[::-1], 240, np.uint8)
    for _ in range(14):
        middle = int(rng.integers(700, 3300)), int(rng.integers(600, 2400))
        radii = int(rng.integers(80, 600)), int(rng.integers(80, 600))
        turn, pen = float(rng.uniform(0, 180)), int(rng.integers(3, 7))
        cv2.ellipse(grey, middle, radii, turn, 0, 360, 60, pen, cv2.LINE_AA)
    for _ in range(20):
        a, b = (tuple(int(v) for v in rng.integers(200, 2800, 2)) for _ in range(2))
        cv2.line(grey, a, b, 60, 4, cv2.LINE_AA)
    noisy = grey + rng.normal(0, 5, grey.shape)
    return Image.fromarray(np.clip(noisy, 0, 255).astype(np.uint8))


def _ink() -> list[dict[str, object]]:
    image = _drawing()
    pyramid = build(image)
    grey = np.asarray(image)
    mask = (grey < 150).astype(np.uint8)
    ink = inked(image, pyramid.medium)
    inked_at = np.argwhere(ink.thin)
    start = inked_at[len(inked_at) // 2][::-1] + 0.5
    far = start + np.array([260.0, 0.0])

    def components() -> None:
        cv2.distanceTransform(mask, cv2.DIST_L2, 5)
        cv2.connectedComponents(mask)

    ways = ways_from(pyramid, start, far, 30.0)
    assert ways is not None
    reached = ways.pixels[np.argmax(np.where(np.isfinite(ways.costs), ways.costs, 0))]
    to = ways.window.to_picture(np.asarray(reached + 0.5, float)[None])[0]
    way = ways.to(to, 40.0)

    def step() -> None:
        ways.to(to, 40.0)

    def piece() -> None:
        if way is not None:
            run_along(pyramid, way, start, None)

    def prepare() -> None:
        ways_from(pyramid, start, far, 30.0)

    def blur() -> None:
        cv2.GaussianBlur(grey, (0, 0), 2.0)

    return [
        row(
            "follow: prepared at a click, 12 MP, over a blur of it", *in_turn(prepare, blur, 9), "3"
        ),
        row("follow: a step of the pointer", _alone(step), None, "a frame"),
        row("follow: the piece it gives, at full resolution", _alone(piece), None, "a frame"),
        row(
            "all lines, the ink being read, over distances and parts",
            *in_turn(lambda: _nothing(traced(ink)), components, 3),
            "6",
        ),
        row(
            "all lines, the picture read as well, over the same",
            *in_turn(lambda: _nothing(trace(image, pyramid.medium)), components, 3),
            "",
        ),
    ]


def _nothing(of: object) -> None:
    """What is made is not kept."""


def _ring(count: int) -> Path:
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    radius = 60 + 4 * np.sin(9 * turn)
    points = np.stack([radius * np.cos(turn), radius * np.sin(turn) + 70], axis=1)
    way = (np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)) / 6
    return path_of(points, points - way, points + way, np.zeros(count, bool), closed=True)


def _edits() -> list[dict[str, object]]:
    path = _ring(2000)
    doc, id_ = with_outline(Document(), path, View.FRONT, "ring")

    def drag() -> None:
        moved = with_path(doc, id_, edit.moved(path, [700], (1.0, 1.0)))
        item = moved.item(id_)
        assert isinstance(item, Outline)
        sampled(item.path, 0.05)

    item = doc.item(id_)
    assert isinstance(item, Outline)
    profile = path_of(_ring(100).points[:50] + np.array([90.0, 0.0]))
    made, source = with_outline(Document(), profile, View.FRONT, "profile")
    outline = made.item(source)
    assert isinstance(outline, Outline)
    turned = makers()["turned"]
    made, mesh = with_made(made, turned, [outline], turned.settings(sides=720))
    faces = made.mesh(mesh).mesh.topology.face_count
    number = iter(range(1, 1000))

    def again() -> None:
        moved = with_path(made, source, edit.moved(profile, [20], (0.01 * next(number), 0.0)))
        remade(moved, made)

    return [
        row("drag a point of 2,000", _alone(drag), None, "a frame"),
        row(f"drag a point of what {faces:,} faces are made of", _alone(again), None, "100 ms"),
    ]


def _solids() -> list[dict[str, object]]:
    loops = [sampled(_ring(200), 1e9) for _ in range(3)]
    seen = [Seen(view, (loops[k],)) for k, view in enumerate((View.FRONT, View.RIGHT, View.TOP))]
    seen[2] = Seen(View.TOP, (loops[2] - (0.0, 70.0),))

    def bare() -> None:
        solids = []
        for one in seen:
            right, up, forward = one.view.directions
            frame = np.stack([right, up, -forward, forward * 400], axis=1)
            section = manifold3d.CrossSection(list(one.loops))
            solids.append(manifold3d.Manifold.extrude(section, 800).transform(frame))
        whole = manifold3d.Manifold.batch_boolean(solids, manifold3d.OpType.Intersect)
        whole.to_mesh64()

    size = 128.0 / 100
    field = np.random.default_rng(0).random((100, 100, 100)).astype(np.float32)
    return [
        row(
            "solid of three outlines of 200 points, over manifold3d alone",
            *in_turn(lambda: _nothing(common(seen)), bare, 9),
            "1.3",
        ),
        row(
            "block of even quads, about 1 million cells, over a pass of sqrt",
            *in_turn(lambda: _nothing(even_quads(seen, size)), lambda: _nothing(np.sqrt(field)), 3),
            "12",
        ),
    ]


# Exactness.


def _exactness() -> list[dict[str, object]]:
    """Drawings with other habits than those the tests have: rounded plates, stars, leaves, hatches,
    drawn with a soft brush on dark and light, in other sizes."""
    lines: list[float] = []
    edges: list[float] = []
    kept: list[bool] = []
    points = [0, 0]
    for seed in range(12):
        true, image, filled = _other_hand(seed)
        found = [t.path for t in trace(image, medium_of(image))]
        for path in true:
            places = _along(path)
            off = np.min([distances(p, places) for p in found], axis=0)
            (edges if filled else lines).append(float(off.mean()))
            corners = path.points[path.corner]
            there = np.concatenate([p.points[p.corner] for p in found] + [np.full((1, 2), 1e9)])
            kept += [bool(np.hypot(*(there - c).T).min() < 2) for c in corners]
        points[0] += sum(map(len, found))
        points[1] += sum(map(len, true))
    return [
        fact("middles of lines: mean miss, px", f"{np.mean(lines):.2f}", "0.5"),
        fact("edges of areas: mean miss, px", f"{np.mean(edges):.2f}", "0.3"),
        fact("corners kept within 2 px, %", f"{100 * np.mean(kept):.0f}", "95"),
        fact("points, over those of the truth", f"{points[0] / points[1]:.2f}", "1.5"),
    ]


def _silhouettes() -> list[dict[str, object]]:
    """Outermost outlines of objects that others modelled, drawn by another hand, against those of
    the objects themselves, in per cent of their extent."""
    means, most = [], []
    for number, make in enumerate(OBJECTS):
        mesh = make()
        for view in (View.FRONT, View.RIGHT, View.TOP):
            loops = outline_of(mesh, view)
            picture, scan, extent = by_another(mesh, loops, view, number)
            found = silhouette(build(picture))
            seen = [scan.true_placement.to_plane(sampled(path, 0.1)) for path in found]
            outer = [loop for loop in loops if signed_area(loop) > 0]
            away = apart(seen, outer) / extent * 100
            means.append(away.mean())
            most.append(away.max())
    return [
        fact("outermost outlines: mean miss, % of the extent", f"{np.mean(means):.3f}", "0.6"),
        fact("the same, largest, median of the drawings", f"{np.median(most):.2f}", "0.6"),
    ]


def _other_hand(seed: int) -> tuple[Sequence[Path], Image.Image, bool]:
    """Drawn with Pillow's brush at four times the size: outlines, a picture, whether filled."""
    from PIL import ImageDraw, ImageFilter

    rng = np.random.default_rng(900 + seed)
    fine, size = 4, (int(rng.integers(500, 1400)), int(rng.integers(500, 1100)))
    dark = seed % 3 == 2
    ground, ink = (30, 235) if dark else (250, 20)
    picture = Image.new("L", (size[0] * fine, size[1] * fine), ground)
    brush = ImageDraw.Draw(picture)
    filled = seed % 2 == 1
    pen = float(rng.uniform(2, 9))
    true = [
        _shape(rng, np.array(size) * place) for place in ((0.27, 0.3), (0.73, 0.32), (0.5, 0.72))
    ]
    for path in true:
        line = sampled(path, 0.01) * fine
        ring = [tuple(p) for p in line]
        if filled:
            brush.polygon(ring, fill=ink)
            continue
        step = np.concatenate([line, line[:1]])
        for a, b in pairwise(step):
            for t in np.linspace(0, 1, max(2, int(np.hypot(*(b - a)) / 1.5))):
                x, y = a + t * (b - a)
                r = pen * fine / 2
                brush.ellipse((x - r, y - r, x + r, y + r), fill=ink)
    picture = picture.resize(size, Image.Resampling.BOX)
    picture = picture.filter(ImageFilter.GaussianBlur(float(rng.uniform(0.2, 0.8))))
    grey = np.asarray(picture, float) + rng.normal(0, rng.uniform(0, 6), size[::-1])
    return true, Image.fromarray(np.clip(grey, 0, 255).astype(np.uint8)), filled


def _shape(rng: np.random.Generator, middle: np.ndarray) -> Path:
    kind = rng.integers(3)
    reach = float(rng.uniform(70, 110))
    count = int(rng.integers(4, 8))
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False) + rng.uniform(0, 1)
    if kind == 0:
        far = reach * rng.uniform(0.75, 1.1, count)
        return path_of(_polar(turn, far) + middle, closed=True)
    if kind == 1:
        points = _polar(turn, np.full(count, reach)) + middle
        way = (np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)) / 5.5
        return path_of(points, points - way, points + way, np.zeros(count, bool), closed=True)
    # A leaf: two bows that meet in corners.
    ends = _polar(np.array([0.4, 0.4 + np.pi]), np.full(2, reach)) + middle
    across = _polar(np.array([0.4 + np.pi / 2]), np.array([reach]))[0]
    third = (ends[1] - ends[0]) / 3
    after = [ends[0] + third + across, ends[1] - third - across]
    before = [ends[0] + third - across, ends[1] - third + across]
    return path_of(ends, before, after, closed=True)


def _polar(turn: np.ndarray, far: np.ndarray) -> np.ndarray:
    return np.stack([np.cos(turn), np.sin(turn)], axis=1) * far[:, None]


def _along(path: Path) -> np.ndarray:
    line = sampled(path, 0.01)
    whole = np.concatenate([line, line[:1]])
    long = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(whole, axis=0).T))])
    at = np.arange(0.0, long[-1])
    assert abs(area(path)) > 0
    return np.stack([np.interp(at, long, whole[:, k]) for k in (0, 1)], axis=1)


def _alone(work: Callable[[], None]) -> float:
    """Median milliseconds."""
    return in_turn(work, lambda: None, 15)[0]


if __name__ == "__main__":
    main()
