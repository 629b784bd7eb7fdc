"""Which view each thing on a sheet is, and how it is turned, from what it shows."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, replace
from itertools import permutations, product

import numpy as np

from dimetron.geometry.views import View
from dimetron.registration.byink.proposal import is_even
from dimetron.registration.byink.search import Alike, Floats, Table, Ways
from dimetron.registration.byink.signature import Signature
from dimetron.registration.byink.ways import WAYS, Reading, number_of, plainly
from dimetron.registration.onsheet.facing import facing

#: How unusual views are on a sheet, in logarithms of odds.
_UNUSUAL = {
    View.FRONT: 0.0,
    View.TOP: 0.0,
    View.RIGHT: 0.2,
    View.LEFT: 0.4,
    View.BACK: 1.2,
    View.BOTTOM: 2.5,
}
#: And turned ones: a plan lies on its side now and then, what stands up hardly.
_LAID, _TURNED_UP = 0.6, 6.0
#: How much it tells that a view has this many times as much ink, as a logarithm, as the others.
_FACING, _MORE_INK = 0.8, 0.7
#: How much it tells that all ink is at one end; the axis that runs from the front to the back.
_HEAD, _DEPTH = 1.0, 1
#: How unusual it is that one is drawn the wrong way round.
_MIRRORED = 2.0
#: What the standard arrangement says of a view.
_ARRANGED = 1.0
#: What the words written at a view say of it, as a logarithm of odds.
_CAPTIONED = 6.0


@dataclass(frozen=True, slots=True)
class Named:
    """readings: of each thing, in order. certain: 0 to 1, how likely they are to agree with one
    another, whichever way the object itself is turned. scales: of each thing's pixels, as
    logarithms up to one common number."""

    readings: tuple[Reading, ...]
    certain: float
    scales: tuple[float, ...]


def named_by_shape(
    signatures: Sequence[Signature],
    arranged: Mapping[int, View],
    lines: bool,
    captioned: Mapping[int, Set[View]] | None = None,
) -> Named:
    """Name two or more things; ``arranged``: names that the arrangement gives some of them, by
    number; ``lines``: whether they are drawn with lines rather than in areas; ``captioned``: the
    views that what is written at some of them fits."""
    found = _table(signatures, arranged, lines, captioned or {}).best()
    best = found[0]
    weights = np.exp(np.array([f.score for f in found]) - best.score)
    even = [(is_even(s, 0), is_even(s, 1)) for s in signatures]
    objects = [_object(f.ways, even) for f in found]
    same = np.array([o == objects[0] for o in objects])
    readings = tuple(plainly(WAYS[way]) for way in best.ways)
    return Named(readings, float(weights[same].sum() / weights.sum()), best.scales)


def contradicted(signatures: Sequence[Signature], views: Sequence[View]) -> float:
    """How much likelier, as a logarithm, the best names are than those given of line drawings, each
    upright; one of them may be drawn the wrong way round, which is the commonest mistake."""
    table = _table(signatures, {}, True, {})
    readings = [Reading(view, False, 0) for view in views]
    given = [readings]
    for i, reading in enumerate(readings):
        mirrored = replace(reading, mirrored=True)
        given.append([*readings[:i], mirrored, *readings[i + 1 :]])
    scores = []
    for some in given:
        ways = tuple(number_of(reading) for reading in some)
        cost = 0.0 if some is readings else _MIRRORED
        scores.append(table.closely(ways, table.rough_of(ways)).score - cost)
    return table.best()[0].score - max(scores)


def _table(
    signatures: Sequence[Signature],
    arranged: Mapping[int, View],
    lines: bool,
    captioned: Mapping[int, Set[View]],
) -> Table:
    details = _details(signatures)
    costs = [
        _costs(arranged.get(i), captioned.get(i), detail) + _heads(signature)
        for i, (signature, detail) in enumerate(zip(signatures, details, strict=True))
    ]
    # Things on one sheet are mostly of one scale.
    alike = [Alike(i, i + 1, 0.0) for i in range(len(signatures) - 1)]
    return Table(signatures, costs, alike, facing(signatures) if lines else None)


def _details(signatures: Sequence[Signature]) -> Floats:
    """(n,) how much each shows within its outline against the others, -1 to 1: what faces people is
    drawn with more."""
    ink = np.array(
        [max(s.shape.ink.mean() / max(s.shape.filled.mean(), 1e-6), 1e-3) for s in signatures]
    )
    return np.asarray(np.clip(np.log(ink / np.median(ink)) / _MORE_INK, -1.0, 1.0))


#: Every way of turning an object by quarters, as axes and signs.
_TURNS = [
    (axes, signs)
    for axes in permutations(range(3))
    for signs in product((1, -1), repeat=3)
    if np.linalg.det(np.eye(3)[list(axes)] * signs) > 0
]


def _object(ways: Ways, even: Sequence[tuple[bool, bool]]) -> tuple[tuple[int, int], ...]:
    """The same for two readings of which one is the other's object turned: their sides' axes and
    signs, as they are when it is turned so that they come first in order. Which way round an even
    side lies does not count."""

    def turned(axes: Sequence[int], signs: Sequence[int]) -> tuple[tuple[int, int], ...]:
        return tuple(
            (axes[axis], 0 if alike else sign * signs[axis])
            for way, is_alike in zip(ways, even, strict=True)
            for axis, sign, alike in zip(WAYS[way].axes, WAYS[way].signs, is_alike, strict=True)
        )

    return min(turned(*turn) for turn in _TURNS)


def _heads(signature: Signature) -> Floats:
    """(24,) what it costs that the end with more ink lies behind: that is where the head is."""
    ink = signature.shape.ink
    found = []
    for way in WAYS:
        if _DEPTH not in way.axes:
            found.append(0.0)
            continue
        side = way.axes.index(_DEPTH)
        along = ink.mean(axis=0) if side == 0 else ink.mean(axis=1)[::-1]
        half = len(along) // 2
        behind = float(along[-half:].sum() - along[:half].sum()) / max(float(along.sum()), 1e-9)
        found.append(_HEAD * behind * way.signs[side])
    return np.array(found)


def _costs(arranged: View | None, captioned: Set[View] | None, detail: float) -> Floats:
    """(24,) how unlikely each way is."""
    found = []
    for way in WAYS:
        reading = plainly(way)
        turned = 0.0
        if reading.quarters:
            turned = _TURNED_UP if reading.view.turned_up else _LAID
        away = _FACING * detail if reading.view in (View.BACK, View.BOTTOM) else 0.0
        called = _CAPTIONED if captioned and reading.view not in captioned else 0.0
        found.append(_UNUSUAL[reading.view] + turned + away + called)
    if arranged is not None:
        found[number_of(Reading(arranged, False, 0))] -= _ARRANGED
    return np.array(found)
