"""``dimetron check``: how far a project's meshes miss its drawings, and their health."""

from __future__ import annotations

import argparse

from dimetron import console
from dimetron.document.container import load
from dimetron.document.fitting import compared, counts, fits
from dimetron.document.reporting import fit_told, in_lines


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
    told = fit_told(doc, found)
    if not told["views"]:
        raise CheckFault(f"{given.project}: {told['problems'][0]}")
    if given.json:
        console.say_json(told)
        return 0
    for problem in told["problems"]:
        console.note(problem)
    console.say("\n".join(in_lines(told)))
    return 0
