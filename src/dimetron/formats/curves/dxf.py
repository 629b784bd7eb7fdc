"""DXF read as outlines, by ezdxf: lines, arcs, polylines, splines, and what blocks hold of them."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterator
from typing import Any

import ezdxf
import numpy as np
from ezdxf import path as ezpath
from ezdxf import recover

from dimetron.formats.drawn import DrawnPath
from dimetron.formats.format import MeshFileError
from dimetron.outlines.chained import chained
from dimetron.outlines.path import Path, from_pieces

#: How many millimetres the units of DXF ($INSUNITS) are.
_MM = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 10: 914.4}
#: Blocks within blocks are followed so deep.
_DEEP = 8
#: Ends nearer than this share of the drawing's size are one place.
_SAME = 1e-6


def read(data: bytes) -> tuple[list[DrawnPath], list[str]]:
    """Paths in mm with y upward, and what could not be read. Raises MeshFileError with words that
    follow the file's name."""
    try:
        document, auditor = recover.read(io.BytesIO(data))
    except (OSError, ezdxf.DXFError, ValueError, IndexError, KeyError, TypeError) as error:
        raise MeshFileError("is no DXF, or damaged; get the file again.") from error
    odd: Counter[str] = Counter()
    scale = _MM.get(int(document.units or 0), 1.0)
    by_layer: dict[str, list[Path]] = {}
    for entity in _entities(document.modelspace(), odd, 0):
        for path in _paths(entity, scale, odd):
            by_layer.setdefault(entity.dxf.layer, []).append(path)
    words = [f"{count} × {kind} was left out" for kind, count in odd.items()]
    if auditor.errors:
        words.append(f"{len(auditor.errors)} faults of the file were mended")
    every = [path for paths in by_layer.values() for path in paths]
    size = max((float(np.ptp(path.points, axis=0).max()) for path in every), default=1.0)
    return [
        DrawnPath("", path, layer)
        for layer, paths in by_layer.items()
        for path in chained(paths, _SAME * max(size, 1e-9))
    ], words


def _entities(space: Any, odd: Counter[str], depth: int) -> Iterator[Any]:
    for entity in space:
        if entity.dxftype() != "INSERT":
            yield entity
        elif depth < _DEEP:
            yield from _entities(entity.virtual_entities(), odd, depth + 1)
        else:
            odd["insert"] += 1


def _paths(entity: Any, scale: float, odd: Counter[str]) -> Iterator[Path]:
    kind = entity.dxftype().lower()
    try:
        made = ezpath.make_path(entity)
    except (TypeError, ValueError, ezdxf.DXFError):
        odd[kind] += 1
        return
    for part in made.sub_paths():
        cubics = _cubics(part)
        if not cubics:
            continue
        flat = np.array(cubics) * scale
        if not np.isfinite(flat).all():
            odd[kind] += 1
            continue
        closed = bool(np.hypot(*(flat[0, 0] - flat[-1, 3])) <= 1e-9 * max(1.0, np.abs(flat).max()))
        yield from_pieces(flat, closed and (len(flat) > 1 or np.ptp(flat[0], axis=0).max() > 0))


def _cubics(part: Any) -> list[np.ndarray]:
    found = []
    at = np.array(part.start)[:2]
    for command in part.commands():
        end = np.array(command.end)[:2]
        if command.type == ezpath.Command.CURVE4_TO:
            b, c = np.array(command.ctrl1)[:2], np.array(command.ctrl2)[:2]
        elif command.type == ezpath.Command.CURVE3_TO:
            middle = np.array(command.ctrl)[:2]
            b, c = at + (middle - at) * 2 / 3, end + (middle - end) * 2 / 3
        else:
            b, c = at, end
        if np.abs(np.stack([b, c, end]) - at).max() > 0:
            found.append(np.stack([at, b, c, end]))
        at = end
    return found
