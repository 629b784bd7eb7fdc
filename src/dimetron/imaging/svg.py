"""SVG as pictures at any resolution. Nothing is ever fetched or run: scripts and links to other
files are taken out before the drawing is rendered, entities are refused."""

from __future__ import annotations

import io
import re
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PIL import Image

from dimetron.imaging.errors import PictureError

if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

#: A drawing without a real size is rendered so large, longest side.
_UNSIZED_PX = 2400
STANDARD_DPI = 300.0
_PX_PER_INCH = 96.0
#: User units (1/96 inch) in each unit of length.
_UNITS = {
    "": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 960 / 25.4, "in": 96.0,
}  # fmt: skip
_REAL = ("pt", "pc", "mm", "cm", "in")
_HREFS = ("href", "{http://www.w3.org/1999/xlink}href")
#: Drawings that people made are nested a few dozen levels deep.
_MOST_NESTED = 200
_RUNS = ("script", "foreignObject", "handler", "iframe")


@dataclass(frozen=True, slots=True)
class Vector:
    """A cleaned SVG. size: (width, height) in user units of 1/96 inch; real: whether the file
    gives them in a unit of length; removed: whether anything was taken out."""

    text: str
    size: tuple[float, float]
    real: bool
    removed: bool


def is_svg(data: bytes) -> bool:
    """Whether a file is an SVG drawing, packed or not."""
    head = data[:4096].lstrip(b"\xef\xbb\xbf \t\r\n")
    return head.startswith(b"<") and b"<svg" in data[:65536]


def cleaned(data: bytes, name: str) -> Vector:
    """Read an SVG without anything that runs or points elsewhere. Raises PictureError."""
    from xml.etree.ElementTree import ParseError, register_namespace, tostring

    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        root = fromstring(data, forbid_entities=True)
    except DefusedXmlException as error:
        raise PictureError(
            f"{name} defines XML entities, which can hide harm; save it as plain SVG."
        ) from error
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise PictureError(f"{name} is damaged; get the file again.") from error
    if _local(root) != "svg":
        raise PictureError(f"{name} is not an SVG drawing.")
    register_namespace("", "http://www.w3.org/2000/svg")
    register_namespace("xlink", "http://www.w3.org/1999/xlink")
    if _deeper(root, _MOST_NESTED):
        raise PictureError(
            f"{name} is nested more than {_MOST_NESTED} deep; save it as plain SVG without groups."
        )
    removed = _scrub(root)
    size, real = _size(root, name)
    return Vector(tostring(root, encoding="unicode"), size, real, removed)


def _deeper(root: Element, levels: int) -> bool:
    """Whether elements are nested deeper than that; without nesting calls of our own."""
    row = [root]
    for _ in range(levels):
        row = [child for element in row for child in element]
        if not row:
            return False
    return True


def _local(element: Element) -> str:
    tag = element.tag
    return tag.rpartition("}")[2] if isinstance(tag, str) else ""


def _scrub(root: Element) -> bool:
    removed = False
    for parent in root.iter():
        for child in list(parent):
            if _local(child) in _RUNS:
                parent.remove(child)
                removed = True
    for element in root.iter():
        for key in list(element.attrib):
            value = element.attrib[key].strip()
            local = key.rpartition("}")[2].lower()
            outside = key in _HREFS and not value.startswith(("#", "data:image/"))
            # A reference to another file within a style, such as url(http://…).
            outside = outside or bool(re.search(r"url\(\s*['\"]?(?!#)", value))
            if outside or local.startswith("on"):
                if key in _HREFS and _local(element) == "a":
                    continue
                del element.attrib[key]
                removed = True
        if _local(element) == "style" and element.text and "import" in element.text:
            element.text = re.sub(r"@import[^;]*;?", "", element.text)
            removed = True
    return removed


def _size(root: Element, name: str) -> tuple[tuple[float, float], bool]:
    box = [float(v) for v in re.findall(r"-?[\d.]+(?:e-?\d+)?", root.get("viewBox", ""))]
    sides, real = [], True
    for i, key in enumerate(("width", "height")):
        match = re.fullmatch(r"\s*([\d.]+(?:e[+-]?\d+)?)\s*([a-z]*)\s*", root.get(key, ""))
        if match is not None and match[2] in _UNITS:
            sides.append(float(match[1]) * _UNITS[match[2]])
            real = real and match[2] in _REAL
        elif len(box) == 4:
            sides.append(box[2 + i])
            real = False
        else:
            sides.append(0.0)
    if min(sides) <= 0 or max(sides) > 1e6:
        raise PictureError(f"{name} tells no size to draw it at; give it a width and height.")
    return (sides[0], sides[1]), real


def zoom_for(vector: Vector, dpi: float | None) -> float:
    """Pixels for each user unit."""
    if dpi is not None:
        return dpi / _PX_PER_INCH
    if vector.real:
        return STANDARD_DPI / _PX_PER_INCH
    return _UNSIZED_PX / max(vector.size)


def size_px(vector: Vector, dpi: float | None) -> tuple[int, int]:
    """(width, height) at a resolution; None: the standard one."""
    zoom = zoom_for(vector, dpi)
    return max(1, round(vector.size[0] * zoom)), max(1, round(vector.size[1] * zoom))


def mm_per_px(vector: Vector, dpi: float | None) -> float | None:
    """Size of a pixel then; None where the drawing tells no true size."""
    return 25.4 / (zoom_for(vector, dpi) * _PX_PER_INCH) if vector.real else None


def rendered(vector: Vector, name: str, dpi: float | None) -> Image.Image:
    """The drawing on white, RGB. Raises PictureError."""
    import resvg_py

    size = size_px(vector, dpi)
    try:
        png = resvg_py.svg_to_bytes(
            svg_string=vector.text, width=size[0], background="#ffffff", dpi=_PX_PER_INCH
        )
    except ValueError as error:
        raise PictureError(f"{name} cannot be drawn; save it as plain SVG.") from error
    image = Image.open(io.BytesIO(bytes(png))).convert("RGB")
    # The height follows from the width and can round the other way.
    return image if image.size == size else image.resize(size)
