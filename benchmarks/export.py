"""Handing off: how long files of a million faces take, against trimesh's own writing of the same
arrays and NumPy's savetxt of them."""

from __future__ import annotations

import io
from collections.abc import Callable

import numpy as np
import trimesh

from benchmarks.timing import in_turn, report, row
from dimetron.document import edits
from dimetron.document.model import Document
from dimetron.formats.export import exported_files
from dimetron.formats.handover import Wanted
from dimetron.mesh.mesh import from_faces

_SIDE = 708
_ROUNDS = 3


def main() -> None:
    positions, faces = _hills()
    doc, _ = edits.with_mesh(Document(), from_faces(positions, faces), "hills")
    bare = trimesh.Trimesh(positions, faces, process=False)
    rows = []
    for kind in ("glb", "ply", "stl"):
        words = f"{kind.upper()} of {len(faces) / 1e6:.1f} million faces (bare: trimesh)"
        rows.append(row(words, *in_turn(_ours(doc, kind), _theirs(bare, kind), _ROUNDS), "1.5"))
    words = f"OBJ of {len(faces) / 1e6:.1f} million faces (bare: NumPy's savetxt)"
    rows.append(row(words, *in_turn(_ours(doc, "obj"), _saved(positions, faces), 1), "1.5"))
    report(*rows)


def _hills() -> tuple[np.ndarray, np.ndarray]:
    x, y = np.meshgrid(np.arange(_SIDE, dtype=float), np.arange(_SIDE, dtype=float))
    z = 10 * np.sin(x / 20) * np.cos(y / 30)
    number = np.arange(_SIDE**2).reshape(_SIDE, _SIDE)
    a, b, c, d = number[:-1, :-1], number[:-1, 1:], number[1:, 1:], number[1:, :-1]
    faces = np.stack([np.stack([a, b, c], -1), np.stack([a, c, d], -1)], axis=2).reshape(-1, 3)
    return np.stack([x, y, z], axis=-1).reshape(-1, 3), faces


def _ours(doc: Document, kind: str) -> Callable[[], None]:
    def run() -> None:
        assert exported_files(doc, "a", kind, Wanted())

    return run


def _theirs(bare: trimesh.Trimesh, kind: str) -> Callable[[], None]:
    def run() -> None:
        # Nothing that it worked out before is kept.
        fresh = trimesh.Trimesh(bare.vertices.copy(), bare.faces.copy(), process=False)
        assert fresh.export(file_type=kind)

    return run


def _saved(positions: np.ndarray, faces: np.ndarray) -> Callable[[], None]:
    def run() -> None:
        out = io.StringIO()
        np.savetxt(out, positions, fmt="v %.9g %.9g %.9g")
        np.savetxt(out, faces + 1, fmt="f %d %d %d")

    return run


if __name__ == "__main__":
    main()
