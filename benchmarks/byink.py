"""Registration from ink alone, on generated drawings of which some are mirrored, turned or under
another's name: how many are recognised, and how exact scales and places come out."""

from __future__ import annotations

import time
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from benchmarks.drawings import Case, Drawn, case
from benchmarks.timing import fact, report
from dimetron.imaging.ink import darkness, grey_of, ink_level
from dimetron.imaging.pyramid import build
from dimetron.imaging.shape import shape_of
from dimetron.registration.byink.proposal import Given, Proposal, proposed
from dimetron.registration.byink.ways import WAYS, Reading, Way, read_as
from dimetron.registration.problem import Picture

#: Numbers that nothing was tuned on.
FIRST, CASES = 1000, 120
#: A drawing differs from its mirror image if this share of its ink lies this share of its size away
#: from any of the other's.
_DIFFERS, _AWAY = 0.08, 0.02


@dataclass(frozen=True)
class Outcome:
    fault: str
    clean: bool
    right: bool
    told: bool
    sure: bool
    scales: tuple[float, ...]
    places: tuple[float, ...]
    ms: float


def outcome(number: int) -> Outcome:
    made = case(number)
    pictures = [Picture(f"p{i}", d.called.value, d.called) for i, d in enumerate(made.drawings)]
    pyramids = [build(d.picture) for d in made.drawings]
    begin = time.perf_counter()
    shapes = {p.id: shape_of(pyramid) for p, pyramid in zip(pictures, pyramids, strict=True)}
    long = int(np.argmax(made.size))
    found = proposed(
        pictures,
        {k: s for k, s in shapes.items() if s is not None},
        Given({long: float(made.size[long])}),
    )
    ms = (time.perf_counter() - begin) * 1000
    true = {p.id: _reading(d) for p, d in zip(pictures, made.drawings, strict=True)}
    right = true == dict(found.readings)
    told = right or any(true == dict(other.readings) for other in found.others)
    clean = made.fault == "none" or _differs(made.drawings[made.wrong])
    scales, places = _errors(made, pictures, found) if right else ((), ())
    return Outcome(made.fault, clean, right, told, found.sure, scales, places, ms)


def _reading(drawn: Drawn) -> Reading:
    axes, signs = [], []
    for step in ((1.0, 0.0), (0.0, -1.0)):
        plane = drawn.pose.to_plane(np.add(drawn.pose.origin_px, step))
        world = drawn.view.to_world(plane)
        axes.append(int(np.argmax(np.abs(world))))
        signs.append(int(np.sign(world[axes[-1]])))
    return read_as(WAYS[WAYS.index(Way((axes[0], axes[1]), (signs[0], signs[1])))], drawn.called)


def _differs(drawn: Drawn) -> bool:
    """Whether it can be seen at all that a drawing is mirrored, turned or of another view."""
    reading = _reading(drawn)
    if reading.view is not drawn.called or reading.quarters % 2:
        return True
    dark = darkness(grey_of(drawn.picture, 500))
    ink = dark > ink_level(dark)
    straight = ndimage.rotate(ink.astype(float), -drawn.pose.rotation_deg, order=1) > 0.5
    rows, columns = np.flatnonzero(straight.any(axis=1)), np.flatnonzero(straight.any(axis=0))
    ink = straight[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]
    other = ink[:, ::-1] if reading.mirrored else ink[::-1, ::-1]
    away = ndimage.distance_transform_edt(~other) > _AWAY * max(ink.shape)
    return bool((ink & away).sum() > _DIFFERS * ink.sum())


def _errors(
    made: Case, pictures: list[Picture], found: Proposal
) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Of scales, as shares; and of places along the axes that drawings share, from their middle, as
    shares of the extent."""
    scales, along = [], {0: [], 1: [], 2: []}
    for picture, drawn in zip(pictures, made.drawings, strict=True):
        pose = found.poses[picture.id]
        scales.append(abs(pose.mm_per_px / drawn.pose.mm_per_px - 1))
        px = drawn.pose.to_px(drawn.view.to_plane(made.middle))
        view = found.readings[picture.id].view
        world = view.to_world(pose.to_plane(px))
        for axis in view.axes:
            along[axis].append(float(world[axis]))
    places = [
        abs(value - float(np.mean(values))) / made.size[axis]
        for axis, values in along.items()
        for value in values
        if len(values) > 1
    ]
    return tuple(scales), tuple(places)


def main() -> None:
    with ProcessPoolExecutor(2) as pool:
        found = list(pool.map(outcome, range(FIRST, FIRST + CASES)))
    scales = np.concatenate([o.scales for o in found])
    places = np.concatenate([o.places for o in found])
    wrong = [o for o in found if o.fault != "none" and o.clean]
    sound = [o for o in found if o.fault == "none"]
    clean = [o for o in found if o.clean]
    rows = [
        fact(f"scale error, median of {CASES} cases", f"{np.median(scales):.2%}", "0.5 %"),
        fact("scale error, 95th of 100", f"{np.percentile(scales, 95):.2%}", "-"),
        fact("offset, median, of the extent", f"{np.median(places):.2%}", "0.5 %"),
        fact("offset, 95th of 100", f"{np.percentile(places, 95):.2%}", "0.5 %"),
    ]
    for fault in ("mirrored", "named", "turned"):
        some = [o for o in wrong if o.fault == fault]
        rows.append(
            fact(
                f"{fault}: first, or one of two that nothing tells apart ({len(some)})",
                f"{_share(some, 'right')}, {_share(some, 'told')}",
                "- , 95 %",
            )
        )
    rows += [
        fact(
            "all three, first or told", f"{_share(wrong, 'right')}, {_share(wrong, 'told')}", "95 %"
        ),
        fact(f"nothing wrong, and said so ({len(sound)})", _share(sound, "right"), "-"),
        fact("sure, of clean cases", _share(clean, "sure"), "-"),
        fact("sure and wrong, cases", str(sum(o.sure and not o.right for o in clean)), "0"),
        fact("time a set, median", f"{np.median([o.ms for o in found]):.0f} ms", "-"),
    ]
    report(*rows)


def _share(some: list[Outcome], what: str) -> str:
    return f"{np.mean([getattr(o, what) for o in some]):.1%}" if some else "-"


if __name__ == "__main__":
    main()
