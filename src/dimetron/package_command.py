"""``dimetron package``: everything another program needs, in a folder, for a script."""

from __future__ import annotations

import argparse

from dimetron import console
from dimetron.document.container import load
from dimetron.formats.kit.kit import kit_of, write_kit


def run(given: argparse.Namespace) -> int:
    """Make the kit and write it. Raises ExportError, MeshError, and what reading and writing
    raise."""
    opened = load(given.project)
    for note in opened.notes:
        console.note(f"{given.project.name}: {note}")
    console.progress("Putting the kit together…")
    files = kit_of(opened.document, given.project.stem)
    write_kit(files, given.out)
    console.say("\n".join(str(given.out / name) for name in files))
    return 0
