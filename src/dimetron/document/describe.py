"""What is in a project, as plain data for scripts and in words for people."""

from __future__ import annotations

from typing import Any

import numpy as np

from dimetron.document.edits import world_corners
from dimetron.document.model import Document


def described(doc: Document) -> dict[str, Any]:
    """Plain JSON data; lengths in millimetres. position_mm (3,): where the middle of a drawing
    stands; corners_mm (4, 3): top-left, top-right, bottom-right, bottom-left."""
    return {
        "unit": doc.unit.value,
        "projection": doc.projection.value,
        "drawings": [
            {
                "name": d.name,
                "view": d.view.title.lower() if d.view in doc.auxiliaries else d.view.key,
                "picture": doc.sheet(d.sheet).name,
                "placed": d.placed,
                "size_px": list(doc.size_px(d)),
                "size_mm": [round(s, 4) for s in d.placement.size_mm(doc.size_px(d))],
                "mm_per_px": d.placement.mm_per_px,
                "rotation_deg": d.placement.rotation_deg,
                "mirrored": d.placement.mirrored,
                "position_mm": _rounded(world_corners(doc, d).mean(axis=0)),
                "corners_mm": _rounded(world_corners(doc, d)),
                "shown": d.shown,
                "held": d.held,
            }
            for d in doc.drawings
        ],
        "meshes": [
            {
                "name": m.name,
                "vertices": m.mesh.topology.vertex_count,
                "edges": len(m.mesh.topology.edges),
                "faces": m.mesh.topology.face_count,
                "bounds_mm": m.mesh.bounds.round(6).tolist(),
            }
            for m in doc.meshes
        ],
        "auxiliary_views": [
            {"name": a.name, "right": list(a.right), "up": list(a.up), "through": list(a.through)}
            for a in doc.auxiliaries
        ],
        "loose_pictures": [{"name": p.name, "size_px": list(doc.size_px(p))} for p in doc.loose],
        "size_references": [
            {"name": r.name, "kind": r.gauge.value, "size_mm": list(r.size)} for r in doc.references
        ],
    }


def _rounded(points: np.ndarray) -> Any:
    return points.round(6).tolist()


def in_words(told: dict[str, Any]) -> str:
    """The same for reading, one line an item."""
    lines = [f"unit {told['unit']}, {told['projection']} projection"]
    for d in told["drawings"]:
        w, h = d["size_mm"]
        lines.append(
            f"drawing  {d['name']}: {d['view']}, {w:g} × {h:g} mm, "
            f"{d['mm_per_px']:.6g} mm per pixel"
        )
    lines += [
        f"mesh     {m['name']}: {m['vertices']} vertices, {m['faces']} faces"
        for m in told["meshes"]
    ]
    lines += [f"view     {a['name']}: auxiliary" for a in told["auxiliary_views"]]
    lines += [
        f"loose    {p['name']}: {p['size_px'][0]} × {p['size_px'][1]} px"
        for p in told["loose_pictures"]
    ]
    lines += [
        f"size     {r['name']}: {' × '.join(f'{s:g}' for s in r['size_mm'])} mm"
        for r in told["size_references"]
    ]
    return "\n".join(lines)
