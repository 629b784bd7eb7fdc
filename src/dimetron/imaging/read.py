"""Reading pictures as they come: probing without decoding, and decoding to 8-bit sRGB.

The source bytes are never changed. What was odd about a file (a profile that could not be used, an
image cut short) comes back as notes beside the pixels.
"""

from __future__ import annotations

import io
import math
import warnings
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError

from dimetron.apart import never
from dimetron.border import border
from dimetron.imaging import pdf, svg
from dimetron.imaging.apart.ask import Told, asked
from dimetron.imaging.errors import PictureError, check_size
from dimetron.imaging.lens import focal_noted
from dimetron.imaging.page import FIRST, Page

Pixels = NDArray[np.uint8]

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
    "AVIF": "avif",
    "HEIF": "heic",
    "JPEG2000": "jp2",
    "PSD": "psd",
    "PPM": "ppm",
    "QOI": "qoi",
    "ICO": "ico",
    "TGA": "tga",
}
#: MPO, several JPEGs in one file, is opened as the JPEG that it begins with. TGA has no mark to be
#: told by and goes by its name.
_BY_NAME = {"TGA": (".tga", ".icb", ".vda", ".vst")}
#: What Pillow reads only with the help of another library.
_HELPED = ("HEIF",)
_OPENED = tuple(name for name in FORMATS if name not in ("MPO", *_BY_NAME, *_HELPED))
ACCEPTED = (
    "PNG, JPEG, HEIC, TIFF, WebP, AVIF, JPEG 2000, BMP, GIF, PSD, TGA, PNM, QOI, ICO, PDF or SVG"
)
VECTORS = ("PDF", "SVG")
_TIFF_BEGINS = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_ICO_BEGINS = b"\0\0\1\0"
_JPEG_2000_BEGINS = (b"\0\0\0\x0cjP  ", b"\xff\x4f\xff\x51")
#: Bytes that a pixel needs while it is decoded to eight bits and its pyramid is made, by Pillow's
#: mode of the file.
_NEEDED = {"1": 2.4, "L": 2.4, "P": 5.4, "RGB": 9.4, "RGBA": 9.4, "CMYK": 12.4}
_NEEDED_DEEP = 8.4
#: Rows of deep pictures brought to eight bits at a time.
_BAND = 256

_DAMAGED = "is damaged; get the file again."
#: Pillow decodes a block at a time under the interpreter's lock; small ones let a window answer.
_BLOCK_BYTES = 8192

# The size is checked against MAX_PIXELS from the header, before decoding; Pillow's own lower
# limit would only warn on standard error.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True, slots=True)
class PictureInfo:
    """size_px is (width, height) after the EXIF orientation; mm_per_px from the file's dpi, or
    from the resolution a PDF page or an SVG is drawn at. ``pages`` of a PDF or TIFF. focal: the
    lens's focal length in diagonals of the picture, if the camera noted it."""

    format: str
    extension: str
    size_px: tuple[int, int]
    mm_per_px: float | None
    pages: int = 1
    focal: float | None = None


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
        """(width, height)."""
        return self.image.size


def probe(data: bytes, name: str, page: Page = FIRST) -> PictureInfo:
    """Read format, size and resolution from the header. Raises PictureError."""
    if _is_for_apart(data):
        return _info_told(asked(data, name, page, draw=False)[0])
    return probe_pixels(data, name, page)


def probe_pixels(data: bytes, name: str, page: Page = FIRST) -> PictureInfo:
    """``probe`` of what Pillow decodes, here and now. Raises PictureError."""
    with _no_warnings(), border(PictureError, name, _DAMAGED), _opened(data, name, page) as image:
        return _info(image, _page_count(image))


def _is_for_apart(data: bytes) -> bool:
    """What is read in a process of its own. TIFF too: its library writes to standard error as it
    likes, and has the most ways to break; so have those of AVIF, HEIC and JPEG 2000. An ICO may
    hold a picture of another size than it says."""
    coded = data.startswith((*_JPEG_2000_BEGINS, _ICO_BEGINS)) or _is_boxed(data)
    return pdf.is_pdf(data) or svg.is_svg(data) or data[:4] in _TIFF_BEGINS or coded


def _is_boxed(data: bytes) -> bool:
    """Whether it is a file of boxes, as HEIC and AVIF are."""
    return data[4:8] == b"ftyp"


def _info_told(told: Told) -> PictureInfo:
    return PictureInfo(
        told.kind, told.extension, told.size_px, told.mm_per_px, told.pages, told.focal
    )


@contextmanager
def _no_warnings() -> Iterator[None]:
    """Pillow tells oddities in metadata as warnings; none of them keeps a picture from use."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        yield


def _page_count(image: ImageFile.ImageFile) -> int:
    """Of a TIFF; asked before it is decoded, which may close the file. Those that can be found:
    a damaged one ends the count."""
    if image.format != "TIFF":
        return 1
    try:
        return max(1, int(getattr(image, "n_frames", 1)))
    except Exception:  # noqa: BLE001 - damage in later pages, in a hundred ways
        return image.tell() + 1


def _info(image: ImageFile.ImageFile, pages: int) -> PictureInfo:
    focal = _focal(image)
    width, height = image.size
    # Orientations 5 to 8 lie on their side.
    if _orientation(image) >= 5:
        width, height = height, width
    kind = str(image.format)
    return PictureInfo(kind, FORMATS[kind], (width, height), _mm_per_px(image), pages, focal)


def decode(data: bytes, name: str, page: Page = FIRST, stop: Callable[[], bool] = never) -> Picture:
    """Decode to 8-bit, upright, sRGB. Raises PictureError; ``name`` is used in its message."""
    return read(data, name, page, stop)[1]


def read(
    data: bytes, name: str, page: Page = FIRST, stop: Callable[[], bool] = never
) -> tuple[PictureInfo, Picture]:
    """``probe`` and ``decode`` in one go. stop: asked whether it is not wanted any more; then it
    raises Stopped. Raises PictureError."""
    if _is_for_apart(data):
        told, image = asked(data, name, page, draw=True, stop=stop)
        assert image is not None
        return _info_told(told), Picture(image, told.notes)
    return read_pixels(data, name, page)


def read_pixels(data: bytes, name: str, page: Page = FIRST) -> tuple[PictureInfo, Picture]:
    """``read`` of what Pillow decodes, here and now. Raises PictureError."""
    with _no_warnings(), border(PictureError, name, _DAMAGED):
        return _read_pixels(data, name, page)


def _read_pixels(data: bytes, name: str, page: Page) -> tuple[PictureInfo, Picture]:
    notes: list[str] = []
    with _opened(data, name, page) as image:
        pages = _page_count(image)
        with border(PictureError, name, "is damaged or cut short; get the file again."):
            image.load()
        # A picture whose orientation stands behind its pixels tells it only now.
        return _info(image, pages), Picture(_as_eight_bit(image, notes), tuple(notes))


def _opened(data: bytes, name: str, page: Page = FIRST) -> ImageFile.ImageFile:
    if not data:
        raise PictureError(f"{name} is empty (0 bytes); get the file again.")
    try:
        named = [kind for kind, ends in _BY_NAME.items() if name.lower().endswith(ends)]
        if _is_boxed(data):
            import pi_heif  # only such pictures pay for it

            pi_heif.register_heif_opener()
            named += _HELPED
        image = Image.open(io.BytesIO(data), formats=(*_OPENED, *named))
    except UnidentifiedImageError as error:
        raise PictureError(
            f"{name} is not a picture Dimetron can read; bring {ACCEPTED}."
        ) from error
    image.decodermaxblock = _BLOCK_BYTES
    if page.number:
        _turn_to(image, name, page.number)
    check_size(image.size, name, "reduce it first", _NEEDED.get(image.mode, _NEEDED_DEEP))
    return image


def _turn_to(image: ImageFile.ImageFile, name: str, number: int) -> None:
    with border(PictureError, name, f"has no page {number + 1} that can be read."):
        image.seek(number)


def _exif(image: Image.Image) -> Image.Exif:
    """What the camera noted; nothing where that cannot be read."""
    if image.format == "PNG" and "exif" not in image.info:
        # Asking further would decode the whole picture.
        return Image.Exif()
    try:
        return image.getexif()
    except Exception:  # noqa: BLE001 - metadata that cannot be read keeps no picture from use
        return Image.Exif()


def _orientation(image: Image.Image) -> int:
    value = _exif(image).get(0x0112, 1)
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def _focal(image: Image.Image) -> float | None:
    try:
        return focal_noted(_exif(image), image.size)
    except Exception:  # noqa: BLE001 - damage within it is told only when it is asked for
        return None


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
    """A few rows at a time: all of it in floats would take many times the picture's memory."""
    tops = range(0, image.height, _BAND)
    bands = [(0, top, image.width, min(image.height, top + _BAND)) for top in tops]
    low, high = 0.0, 255.0
    if image.mode == "F":
        low, high = np.inf, -np.inf
        for box in bands:
            values = np.asarray(image.crop(box))
            values = values[np.isfinite(values)]
            low = min(low, float(values.min(initial=low)))
            high = max(high, float(values.max(initial=high)))
    elif any(float(np.asarray(image.crop(box)).max()) > 255 for box in bands):
        high = 65535.0
    low = low if math.isfinite(low) else 0.0
    factor = 255.0 / max(high - low, 1e-9) if math.isfinite(high - low) else 0.0
    whole = Image.new("L", image.size)
    for box in bands:
        with np.errstate(all="ignore"):  # what is no number stays black
            scaled = (np.asarray(image.crop(box), dtype=np.float64) - low) * factor
        eight = np.nan_to_num(scaled).clip(0, 255).astype(np.uint8)
        whole.paste(Image.fromarray(eight), box[:2])
    return whole


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
