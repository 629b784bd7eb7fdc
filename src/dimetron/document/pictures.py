"""Pictures of a document's drawings, decoded and prepared."""

from __future__ import annotations

from PIL import Image

from dimetron.document.model import Document, Drawing, Sheet
from dimetron.imaging.prepare import prepared, pyramid_on
from dimetron.imaging.pyramid import Pyramid, build
from dimetron.imaging.read import decode
from dimetron.imaging.recipe import frame_of


def picture_of(doc: Document, item: Drawing | Sheet) -> Image.Image | None:
    """The prepared picture (L, RGB or RGBA); None if the project has lost its file.

    Raises PictureError if the file cannot be decoded.
    """
    recipe = doc.recipe(item)
    source = doc.source(recipe.source)
    if source.data is None:
        return None
    raw = decode(source.data, source.name, recipe.page).image
    return prepared(raw, frame_of(recipe), recipe.tone)


def pyramid_of(doc: Document, drawing: Drawing) -> Pyramid | None:
    """A drawing's picture at all resolutions, with what it is drawn with; None if the project has
    lost its file. Raises PictureError."""
    recipe = doc.recipe(drawing)
    source = doc.source(recipe.source)
    if source.data is None:
        return None
    page = build(decode(source.data, source.name, recipe.page).image)
    return pyramid_on(page, frame_of(recipe), recipe.tone, recipe.figure)
