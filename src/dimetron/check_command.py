"""``dimetron check``: how far a project's meshes miss its drawings, and their health."""

from __future__ import annotations

import argparse
from dataclasses import asdict
from typing import Any

from dimetron import console
from dimetron.document.container import load
from dimetron.document.fitting import Fit, compared, counts, fits
from dimetron.document.model import Document
from dimetron.mesh.health import health


class CheckFault(ValueError):
    """There is nothing to be held against each other; the message says what to do."""


def run(given: argparse.Namespace) -> int:
    """Tell it. Raises CheckFault and what reading raises."""
    opened = load(given.project)
    for note in opened.notes:
        console.note(f"{given.project.name}: {note}")
    doc = opened.document
    if not compared(doc):
        raise CheckFault(f"{given.project}: no placed drawing is shown; place one first.")
    if not any(counts(doc, item) for item in doc.meshes):
        raise CheckFault(f"{given.project}: no mesh with faces is shown; show or add one first.")
    console.progress("Holding the meshes against the drawings…")
    found = fits(doc)
    known = [one for one in found if one.miss is not None]
    problems = [one.problem for one in found if one.problem]
    if not known:
        raise CheckFault(f"{given.project}: {problems[0]}")
    views, meshes = [_told(one) for one in known], _meshes(doc)
    if given.json:
        console.say_json({"views": views, "meshes": meshes, "problems": problems})
        return 0
    for problem in problems:
        console.note(problem)
    console.say("\n".join([*map(_words, views), *map(_health_words, meshes)]))
    return 0


def _told(one: Fit) -> dict[str, Any]:
    assert one.miss is not None and one.at is not None
    miss, areas = one.miss, one.miss.areas
    return {
        "view": one.drawing.view.key,
        "drawing": one.drawing.name,
        "mean_mm": round(miss.mean, 4),
        "p95_mm": round(miss.p95, 4),
        "max_mm": round(miss.largest, 4),
        "at_mm": one.at.round(4).tolist(),
        "over_mm2": round(areas.over, 3),
        "under_mm2": round(areas.short, 3),
        "overlap": round(areas.common, 6),
    }


def _meshes(doc: Document) -> list[dict[str, Any]]:
    shown = [item for item in doc.meshes if counts(doc, item)]
    return [{"name": item.name, **asdict(health(item.mesh))} for item in shown]


def _words(told: dict[str, Any]) -> str:
    return (
        f"{told['drawing']}: {told['mean_mm']:.2f} mm off on average, at most "
        f"{told['max_mm']:.2f}; {told['overlap']:.1%} common"
    )


def _health_words(told: dict[str, Any]) -> str:
    sound = "closed" if told["closed"] else f"{told['open_edges']} open edges"
    return f"{told['name']}: {told['faces']} faces, {sound}"
