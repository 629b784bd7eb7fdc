"""Keeps the scene of each pane: the same object as long as nothing in it changed."""

from __future__ import annotations

from dataclasses import replace

from dimetron.app.board.layout import Rect
from dimetron.app.board.sight import Sight
from dimetron.app.work.fitting import Tints
from dimetron.app.work.pictures import Pictures
from dimetron.app.work.session import Session
from dimetron.document.edits import stand_offs
from dimetron.document.kind import lined_items
from dimetron.document.model import Document
from dimetron.document.outline import Outline
from dimetron.geometry.camera import Camera, OrbitCamera
from dimetron.render.palette import Palette
from dimetron.render.scene import PaneScene, drawings_in, pane_scene

_Key = tuple[object, ...]


class Scenes:
    def __init__(self, session: Session, pictures: Pictures) -> None:
        self._session = session
        self._pictures = pictures
        self._known: dict[str, tuple[_Key, PaneScene]] = {}
        self._stands: tuple[Document, dict[str, float]] | None = None

    def clear(self) -> None:
        self._known.clear()

    def of(
        self,
        sight: Sight,
        rects: dict[str, Rect],
        homes: dict[str, Rect],
        palette: Palette,
        ratio: float,
        grid: bool,
        tints: Tints | None = None,
    ) -> tuple[dict[str, PaneScene], bool]:
        """The scene of each shown pane, and whether any is another than before. tints: what
        colours the meshes in 3D."""
        doc, stands = self._shown(sight)
        found, news = {}, False
        for slot, rect in rects.items():
            camera = sight.camera(slot, rect, homes[slot])
            with_grid = grid and slot not in sight.gridless
            look = (
                sight.shading[slot],
                sight.opacities.get(slot, 1.0),
                sight.section,
                sight.mesh_look,
            )
            own = tints if isinstance(camera, OrbitCamera) else None
            key = self._key(doc, camera, stands, (*look, palette, ratio, with_grid, own))
            known = self._known.get(slot)
            if known is None or known[0] != key:
                scene = pane_scene(
                    doc,
                    camera,
                    sight.shading[slot],
                    self._pictures.pyramids,
                    self._session.picked,
                    stands=None if doc is self._session.unmoved else stands,
                    patch=self._session.patch,
                    tints=None if own is None else own.of,
                    pane_opacity=sight.opacities.get(slot, 1.0),
                    unit=doc.unit,
                    palette=palette,
                    pixel_ratio=ratio,
                    grid=with_grid,
                    section=sight.section,
                    mesh_look=sight.mesh_look,
                )
                known = self._known[slot] = key, scene
                news = True
            found[slot] = known[1]
        return found, news

    def _shown(self, sight: Sight) -> tuple[Document, dict[str, float]]:
        """The document as far as the board shows it, and where its drawings stand."""
        doc = self._session.unmoved
        if self._stands is None or self._stands[0] is not doc:
            self._stands = doc, stand_offs(doc)
        return shown_of(doc, sight), self._stands[1]

    def _key(
        self, doc: Document, camera: Camera, stands: dict[str, float], look: tuple[object, ...]
    ) -> _Key:
        # Only what this pane shows: other panes' drawings do not redraw it.
        drawings = drawings_in(doc, camera)
        recipes = tuple(doc.recipe(d) for d in drawings)
        known = tuple(recipe in self._pictures.pyramids for recipe in recipes)
        return (
            camera,
            look,
            drawings,
            tuple(stands[d.id] for d in drawings),
            recipes,
            known,
            tuple(m for m in doc.meshes if doc.visible(m)),
            tuple(item for item in lined_items(doc) if doc.visible(item)),
            self._session.patch,
            self._session.picked if self._session.chosen else None,
            doc.unit,
        )


def shown_of(doc: Document, sight: Sight) -> Document:
    """The document without what the board hides as a whole."""
    if not sight.drawings:
        doc = replace(doc, drawings=tuple(replace(d, shown=False) for d in doc.drawings))
    if not sight.outlines:
        kept = tuple(item for item in doc.further if not isinstance(item, Outline))
        doc = replace(doc, further=kept)
    if not sight.others:
        doc = replace(doc, meshes=(), references=(), further=())
    return doc
