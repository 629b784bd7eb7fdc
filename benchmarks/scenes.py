"""Made-up scenes of a stated size."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PIL import Image

from dimetron.document import edits
from dimetron.document.model import Document, MeshObject, Source, new_id
from dimetron.geometry.views import View
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.imaging.recipe import Recipe
from dimetron.mesh.mesh import Mesh, from_faces


def ball(rings: int, segments: int) -> Mesh:
    """A globe of about rings x segments quads, 200 mm across, standing on the ground."""
    lat = np.linspace(0.02, np.pi - 0.02, rings + 1)
    lon = np.linspace(0, 2 * np.pi, segments, endpoint=False)
    x = np.sin(lat)[:, None] * np.cos(lon)
    y = np.sin(lat)[:, None] * np.sin(lon)
    z = np.repeat(np.cos(lat)[:, None], segments, axis=1)
    points = np.stack([x, y, z], axis=-1).reshape(-1, 3) * 100 + [0, 0, 100]
    i, j = np.meshgrid(np.arange(rings), np.arange(segments), indexing="ij")
    a, b = i * segments + j, i * segments + (j + 1) % segments
    quads = np.stack([a, a + segments, b + segments, b], axis=-1).reshape(-1, 4)
    return from_faces(points, quads.astype(np.int32))


def pencil_noise(w: int, h: int, seed: int) -> np.ndarray:
    rng = np.random.default_rng(seed)
    pixels = rng.integers(200, 256, (h, w, 3), dtype=np.uint8)
    pixels[:: h // 40] = 40
    pixels[:, :: w // 40] = 40
    return pixels


THREE = (View.FRONT, View.RIGHT, View.TOP)


def drawings(
    w: int, h: int, views: tuple[View, ...] = THREE
) -> tuple[Document, dict[Recipe, Pyramid]]:
    """Drawings of w x h pixels, one for each view, about 240 mm wide."""
    doc, pyramids = Document(), {}
    for seed, view in enumerate(views):
        source = Source(new_id(), f"{view.value}.png", "png", (w, h), "0" * 64, b"x", 240 / w)
        doc, id_ = edits.with_drawing(doc, source, view)
        pyramids[doc.recipe(doc.drawing(id_))] = build(Image.fromarray(pencil_noise(w, h, seed)))
    return doc, pyramids


def with_mesh(doc: Document, mesh: Mesh) -> Document:
    item = MeshObject("ball", "ball", mesh)
    return replace(doc, meshes=(item,))
