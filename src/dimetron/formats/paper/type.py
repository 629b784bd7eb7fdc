"""The typeface on paper."""

from __future__ import annotations

import io
from functools import cache
from importlib.resources import files

from reportlab import rl_config
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

REGULAR, STRONG = "Barlow", "Barlow-SemiBold"


@cache
def register_type() -> None:
    """Make the typeface known to reportlab, and let it write pictures as bytes, not as letters."""
    rl_config.useA85 = 0
    for name, file in ((REGULAR, "Regular"), (STRONG, "SemiBold")):
        data = files("dimetron.render").joinpath("fonts", f"BarlowTabular-{file}.ttf").read_bytes()
        pdfmetrics.registerFont(TTFont(name, io.BytesIO(data)))
