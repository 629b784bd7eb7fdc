"""Meshes held against drawings: how long it takes, and how true the figures are for objects whose
meshes are wrong in known ways; pulling."""

from __future__ import annotations

import time
from collections.abc import Iterator

import numpy as np

from benchmarks.by_another import by_another
from benchmarks.objects import OBJECTS
from benchmarks.timing import fact, in_turn, report, row
from dimetron.document.fitting import inked
from dimetron.fit.miss import QUICK, Drawn, Miss, missed
from dimetron.fit.modelled import modelled
from dimetron.fit.pull import Part, Wanted, pulled, unturned
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import build
from dimetron.mesh.health import health
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.seen_outline import outline_of
from dimetron.mesh.starters.ball import Ball, make

VIEWS = (View.FRONT, View.RIGHT, View.TOP)
_ROUNDS = 9


def main() -> None:
    report(*_outlines(), *_live(), *_figures(), *_pulling())


def _body(levels: int) -> Mesh:
    """A block of quads, waisted."""
    mesh = by_name("subdivide")(box((-100, -150, 0), (100, 150, 200)), levels=levels).mesh
    p = mesh.positions
    return mesh.with_positions(p * (1 + 0.06 * np.sin(p[:, 2:] * 0.05)))


def _outlines() -> list[dict[str, object]]:
    mesh = by_name("triangulate")(make(Ball(sides=4 * 130))).mesh
    faces = mesh.topology.corners.reshape(-1, 3)
    outline_of(mesh, View.FRONT)

    def ours() -> None:
        outline_of(mesh.with_positions(mesh.positions + 0.0), View.FRONT)

    def bare() -> None:
        a, b, c = (mesh.positions[faces[:, k]] for k in range(3))
        normals = np.cross(b - a, c - a)
        normals / np.linalg.norm(normals, axis=1, keepdims=True)

    words = f"outline of {len(faces)} triangles (bare: all face normals)"
    return [row(words, *in_turn(ours, bare, _ROUNDS), "5")]


def _live() -> list[dict[str, object]]:
    """What a move of a drag asks for."""
    mesh = by_name("subdivide")(_body(6), levels=1).mesh
    quarter = by_name("delete")(mesh, _half(mesh)).mesh
    wanted = [Drawn(modelled([quarter], view).loops) for view in VIEWS]
    for one in wanted:
        one.line(QUICK).nearest(np.zeros((1, 2)))

    def ours() -> None:
        moved = quarter.with_positions(quarter.positions * 1.01)
        for view, one in zip(VIEWS, wanted, strict=True):
            miss = missed(modelled([moved], view).loops, one, QUICK)
            assert miss.mean < miss.largest

    def bare() -> None:
        np.asarray(quarter.positions * 1.01, np.float32)

    count = quarter.topology.face_count
    words = f"live miss of {count} faces in three panes (bare: one pass)"
    return [row(words, *in_turn(ours, bare, _ROUNDS), "16 ms")]


def _half(mesh: Mesh) -> object:
    from dimetron.mesh.select import Kind, Selection

    return Selection(Kind.FACE, np.flatnonzero(mesh.face_centres[:, 1] > 0).astype(np.int32))


def _wrong(mesh: Mesh) -> Iterator[tuple[str, Mesh]]:
    """The mesh wrong in known ways; p counts in shares of its extent."""
    p = mesh.positions
    size, middle = float(np.ptp(p, axis=0).max()), p.mean(axis=0)
    yield "right", mesh
    yield "scaled", mesh.with_positions((p - middle) * 1.03 + middle)
    yield "shifted", mesh.with_positions(p + size * np.array([0.02, 0.012, -0.015]))
    top = p[int(p[:, 2].argmax())]
    bump = np.exp(-((p - top) ** 2).sum(axis=1) / (0.08 * size) ** 2)
    yield "bumped", mesh.with_positions(p + 0.04 * size * bump[:, None] * np.array([0, 0, 1.0]))
    at = float(np.quantile(p[:, 1], 0.12))
    yield "a part missing", by_name("cut")(mesh, axis="y", at=at).mesh


def _figures() -> list[dict[str, object]]:
    """Per cent of the extent by which figures differ from those against the object itself."""
    off: dict[str, list[tuple[float, float, float]]] = {}
    right: list[tuple[float, float]] = []
    for number, made in enumerate(OBJECTS):
        true = made()
        for view in VIEWS:
            exact, ink, extent = _seen(true, view, number)
            for how, mesh in _wrong(true):
                outline = modelled([mesh], view)
                told, known = (missed(outline.loops, one) for one in (ink, exact))
                if how == "right":
                    right.append((told.mean / extent, told.largest / extent))
                    continue
                place = _short_of_worst(told, known) / extent
                figures = told.mean - known.mean, told.largest - known.largest
                off.setdefault(how, []).append((*(abs(v) / extent for v in figures), place))
    rows = []
    mean, largest = (100 * np.array(part) for part in zip(*right, strict=True))
    words = f"{np.median(mean):.2f}, {np.median(largest):.2f}, {largest.max():.2f}"
    rows.append(fact("the right mesh: mean, largest, worst of all, %", words, "0.2"))
    for how, found in off.items():
        mean, largest, place = 100 * np.array(found).T
        within = (
            f"{(mean < 0.2).mean():.0%}, {(largest < 0.2).mean():.0%}, {(place < 0.2).mean():.0%}"
        )
        rows.append(fact(f"{how}: mean, largest, place within 0.2, 0.2, 2 %", within, "100 %"))
    return rows


def _short_of_worst(told: Miss, known: Miss) -> float:
    """mm that is missed less at the worst place that is told than at the true one: where all of an
    outline is off alike, any place is right."""
    off = known.modelled if told.worst[2] > 0 else known.drawn
    there = told.worst[1] if told.worst[2] > 0 else told.worst[0]
    near = np.hypot(*(off.places - there).T) < 0.02 * known.of.size
    return known.largest - float(np.abs(off.off[near]).max(initial=0.0))


def _seen(true: Mesh, view: View, number: int) -> tuple[Drawn, Drawn, float]:
    """What a view shows of an object: itself, and as it was drawn by another hand."""
    loops = modelled([true], view).loops
    picture, scan, extent = by_another(true, loops, view, number)
    read = inked(build(picture))
    ink = [scan.true_placement.to_plane(loop) for loop in read.loops]
    pen = read.pen * scan.true_placement.mm_per_px
    return Drawn(loops, pen=pen), Drawn(ink, pen=pen), extent


def _pulling() -> list[dict[str, object]]:
    true = _body(6)
    wanted = [Wanted(view, Drawn(modelled([true], view).loops)) for view in VIEWS]
    p = true.positions
    wrongs = [p * 1.03, p + np.array([4, 3, -5.0]), p * np.array([1, 1, 0.9])]
    times, left, volumes, whole = [], [], [], True
    for positions in wrongs:
        wrong = true.with_positions(positions)
        begin = time.perf_counter()
        (places,) = pulled([Part(wrong)], [], wanted)
        times.append((time.perf_counter() - begin) * 1000)
        after = true.with_positions(places)
        before, now = (
            np.mean([missed(modelled([m], one.view).loops, one.drawn).mean for one in wanted])
            for m in (wrong, after)
        )
        left.append(now / before)
        volumes.append((health(after).volume_mm3 or 0.0) / (health(true).volume_mm3 or 1.0) - 1)
        whole &= unturned(wrong, places) == 1.0
    count = len(p)
    return [
        row(f"pulling {count} vertices", float(np.median(times)), None, "2000 ms"),
        fact("what is left of the miss, worst of three", f"{max(left):.1%}", "25 %"),
        fact(
            "volume off the true one, worst; no face turned",
            f"{max(map(abs, volumes)):.1%}, {whole}",
            "3 %, True",
        ),
    ]


if __name__ == "__main__":
    main()
