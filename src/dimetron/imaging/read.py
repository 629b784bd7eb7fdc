"""Reading pictures as they come: probing without decoding, and decoding to 8-bit sRGB.

The source bytes are never changed. What was odd about a file (a profile that could not be used, an
image cut short) comes back as notes beside the pixels.
"""

from __future__ import annotations

import io
import math
import warnings
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from dimetron.imaging import pdf, svg
from dimetron.imaging.errors import PictureError
from dimetron.imaging.page import FIRST, Page

Pixels = NDArray[np.uint8]

#: 20 000 x 20 000: what is placed and zoomed; more is refused before anything is decoded.
MAX_PIXELS = 400_000_000
#: Files larger than this are not read into memory.
MAX_BYTES = 2_000_000_000
#: Formats that are taken in, by Pillow's names, with the endings they are stored under.
FORMATS = {
    "PNG": "png",
    "JPEG": "jpg",
    "MPO": "jpg",
    "TIFF": "tif",
    "BMP": "bmp",
    "WEBP": "webp",
    "GIF": "gif",
}
#: MPO, several JPEGs in one file, is opened as the JPEG that it begins with.
_OPENED = tuple(name for name in FORMATS if name != "MPO")
ACCEPTED = "PNG, JPEG, TIFF, BMP, WebP, GIF, PDF or SVG"
VECTORS = ("PDF", "SVG")

#: Pillow decodes a block at a time under the interpreter's lock; small ones let a window answer.
_BLOCK_BYTES = 8192

# The size is checked against MAX_PIXELS from the header, before decoding; Pillow's own lower
# limit would only warn on standard error.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True, slots=True)
class PictureInfo:
    """size_px is (width, height) after the EXIF orientation; mm_per_px from the file's dpi, or
    from the resolution a PDF page or an SVG is drawn at. ``pages`` of a PDF or TIFF."""

    format: str
    extension: str
    size_px: tuple[int, int]
    mm_per_px: float | None
    pages: int = 1


@dataclass(frozen=True, eq=False)
class Picture:
    """Decoded, upright: a Pillow image of mode L, RGB or RGBA in sRGB, not to be changed.

    It stays in Pillow's own memory, since copying a large picture out takes as long as a third of
    its decoding; ``pixels`` does that when it is asked for.
    """

    image: Image.Image
    notes: tuple[str, ...] = ()

    @cached_property
    def pixels(self) -> Pixels:
        """(h, w, c) with c = 1 grey, 3 colour or 4 with alpha; read-only."""
        pixels = np.array(self.image, dtype=np.uint8)
        pixels.setflags(write=False)
        return pixels[..., None] if pixels.ndim == 2 else pixels

    @property
    def size_px(self) -> tuple[int, int]:
        return self.image.size


def probe(data: bytes, name: str, page: Page = FIRST) -> PictureInfo:
    """Read format, size and resolution from the header. Raises PictureError."""
    if pdf.is_pdf(data):
        return _pdf_info(data, name, page)
    if svg.is_svg(data):
        return _svg_info(svg.cleaned(data, name), name, page)
    with _opened(data, name, page) as image:
        return _info(image)


def _pdf_info(data: bytes, name: str, page: Page) -> PictureInfo:
    dpi = page.dpi or pdf.STANDARD_DPI
    size = pdf.page_size_px(data, name, page.number, dpi)
    _check_size(size, name, "choose a lower resolution")
    return PictureInfo("PDF", "pdf", size, 25.4 / dpi, pdf.page_count(data, name))


def _svg_info(vector: svg.Vector, name: str, page: Page) -> PictureInfo:
    size = svg.size_px(vector, page.dpi)
    _check_size(size, name, "choose a lower resolution")
    return PictureInfo("SVG", "svg", size, svg.mm_per_px(vector, page.dpi))


def _check_size(size: tuple[int, int], name: str, advice: str) -> None:
    if size[0] * size[1] > MAX_PIXELS:
        raise PictureError(
            f"{name} is {size[0]} × {size[1]} pixels, more than Dimetron takes (20000 × 20000); "
            f"{advice}."
        )


def _info(image: ImageFile.ImageFile) -> PictureInfo:
    width, height = image.size
    # Orientations 5 to 8 lie on their side.
    if _orientation(image) >= 5:
        width, height = height, width
    kind = str(image.format)
    pages = getattr(image, "n_frames", 1) if kind == "TIFF" else 1
    return PictureInfo(kind, FORMATS[kind], (width, height), _mm_per_px(image), pages)


def decode(data: bytes, name: str, page: Page = FIRST) -> Picture:
    """Decode to 8-bit, upright, sRGB. Raises PictureError; ``name`` is used in its message."""
    return read(data, name, page)[1]


def read(data: bytes, name: str, page: Page = FIRST) -> tuple[PictureInfo, Picture]:
    """``probe`` and ``decode`` in one go. Raises PictureError."""
    if pdf.is_pdf(data):
        info = _pdf_info(data, name, page)
        return info, Picture(pdf.rendered(data, name, page.number, page.dpi or pdf.STANDARD_DPI))
    if svg.is_svg(data):
        vector = svg.cleaned(data, name)
        info = _svg_info(vector, name, page)
        notes = ("scripts and links to other files in it were left out",) * vector.removed
        return info, Picture(svg.rendered(vector, name, page.dpi), notes)
    return _read_pixels(data, name, page)


def _read_pixels(data: bytes, name: str, page: Page) -> tuple[PictureInfo, Picture]:
    notes: list[str] = []
    with _opened(data, name, page) as image:
        try:
            image.load()
        except (OSError, SyntaxError, ValueError, EOFError, IndexError) as error:
            raise PictureError(
                f"{name} is damaged or cut short and cannot be shown; get the file again."
            ) from error
        except MemoryError as error:
            raise PictureError(
                f"{name} needs more memory than there is; reduce it first."
            ) from error
        # A picture whose orientation stands behind its pixels tells it only now.
        return _info(image), Picture(_as_eight_bit(image, notes), tuple(notes))


def _opened(data: bytes, name: str, page: Page = FIRST) -> ImageFile.ImageFile:
    if not data:
        raise PictureError(f"{name} is empty (0 bytes); get the file again.")
    try:
        # Pillow tells oddities in metadata as warnings; none of them keeps a picture from use.
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data), formats=_OPENED)
    except UnidentifiedImageError as error:
        raise PictureError(
            f"{name} is not a picture Dimetron can read; bring {ACCEPTED}."
        ) from error
    except (OSError, SyntaxError, ValueError, EOFError) as error:
        raise PictureError(f"{name} is damaged; get the file again.") from error
    image.decodermaxblock = _BLOCK_BYTES
    if page.number:
        _turn_to(image, name, page.number)
    width, height = image.size
    _check_size((width, height), name, "reduce it first")
    if width < 1 or height < 1:
        raise PictureError(f"{name} has no pixels; get the file again.")
    return image


def _turn_to(image: ImageFile.ImageFile, name: str, number: int) -> None:
    try:
        image.seek(number)
    except (EOFError, OSError, SyntaxError, ValueError) as error:
        raise PictureError(f"{name} has no page {number + 1} that can be read.") from error


def _orientation(image: Image.Image) -> int:
    if image.format == "PNG" and "exif" not in image.info:
        # Asking further would decode the whole picture.
        return 1
    try:
        value = image.getexif().get(0x0112, 1)
    except (OSError, SyntaxError, ValueError, KeyError, TypeError):
        return 1
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def _mm_per_px(image: Image.Image) -> float | None:
    dpi: Any = image.info.get("dpi")
    try:
        across = float(dpi[0])
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    # 72 and 96 are what programs write when nobody measured anything.
    if not math.isfinite(across) or not 20 < across < 20000 or round(across) in (72, 96):
        return None
    return 25.4 / across


def _as_eight_bit(image: Image.Image, notes: list[str]) -> Image.Image:
    upright = image
    if _orientation(image) != 1:
        upright = ImageOps.exif_transpose(image)
    profile = image.info.get("icc_profile")
    plain = _plain_mode(upright)
    if profile and plain.mode in ("RGB", "CMYK", "L", "RGBA"):
        plain = _to_srgb(plain, profile, notes)
    return plain.convert("RGB") if plain.mode == "CMYK" else plain


def _plain_mode(image: Image.Image) -> Image.Image:
    """To L, RGB, RGBA or CMYK; deep grey is brought to eight bits by its own range."""
    if image.mode in ("L", "RGB", "RGBA", "CMYK"):
        return image.convert("RGBA") if _has_clear_colour(image) else image
    if image.mode.startswith("I;16") or image.mode in ("I", "F"):
        return _from_deep(image)
    if image.mode == "1":
        return image.convert("L")
    if image.mode in ("LA", "La", "PA", "RGBa") or _has_clear_colour(image):
        return image.convert("RGBA")
    return image.convert("RGB")


def _has_clear_colour(image: Image.Image) -> bool:
    return "transparency" in image.info and image.mode in ("L", "RGB", "P")


def _from_deep(image: Image.Image) -> Image.Image:
    values = np.asarray(image, dtype=np.float32)
    if image.mode == "F":
        low, high = float(np.nanmin(values)), float(np.nanmax(values))
    else:
        low, high = 0.0, 65535.0 if float(values.max()) > 255 else 255.0
    scaled = (values - low) * (255.0 / max(high - low, 1e-9))
    return Image.fromarray(np.nan_to_num(scaled).clip(0, 255).astype(np.uint8), "L")


def _to_srgb(image: Image.Image, profile: bytes, notes: list[str]) -> Image.Image:
    from PIL import ImageCms  # loads a colour engine; only pictures with a profile pay for it

    alpha = image.getchannel("A") if image.mode == "RGBA" else None
    base = image.convert("RGB") if alpha is not None else image
    target = "L" if base.mode == "L" else "RGB"
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        wanted = ImageCms.createProfile("sRGB")
        if target == "L":
            # A grey profile differs from sRGB's grey by its tone curve alone.
            converted = ImageCms.profileToProfile(base, source, wanted, outputMode="RGB")
            converted = converted.convert("L") if converted is not None else base
        else:
            converted = ImageCms.profileToProfile(base, source, wanted, outputMode=target) or base
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        notes.append("its colour profile does not fit the picture and was left aside")
        return image
    if alpha is not None:
        converted.putalpha(alpha)
    return converted
