"""What every reader of pictures raises, and the sizes beyond which it does."""

from __future__ import annotations

from dimetron.imaging.memory import there_is

#: 20 000 x 20 000: what is placed and zoomed; more is refused before anything is decoded.
MAX_PIXELS = 400_000_000


class PictureError(ValueError):
    """Not a picture that can be used; the message says what is wrong and what to do."""


class Stopped(PictureError):
    """Whoever asked for the picture does not want it any more."""


def check_size(size: tuple[int, int], name: str, advice: str, bytes_per_px: float) -> None:
    """Raises PictureError if a picture (width, height) is too large, or needs more memory while it
    is read than there is. advice: what to do then."""
    pixels = size[0] * size[1]
    if pixels > MAX_PIXELS:
        raise PictureError(
            f"{name} is {size[0]} × {size[1]} pixels, more than Dimetron takes (20000 × 20000); "
            f"{advice}."
        )
    if size[0] < 1 or size[1] < 1:
        raise PictureError(f"{name} has no pixels; get the file again.")
    needed = int(pixels * bytes_per_px)
    if not there_is(needed):
        raise PictureError(
            f"{name} needs {needed / 1e9:.1f} GB of memory, more than is free; close other "
            f"programs, or {advice}."
        )
