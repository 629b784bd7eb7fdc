"""Colours in words."""

from __future__ import annotations

import colorsys

#: Where the hues of each word end, 0 to 1.
_HUES = (
    (0.04, "red"), (0.11, "orange"), (0.19, "yellow"), (0.45, "green"), (0.53, "turquoise"),
    (0.71, "blue"), (0.84, "violet"), (0.93, "pink"), (1.01, "red"),
)  # fmt: skip
#: Without so much colour it is grey, black below and white above so much light; a yellow or orange
#: darker than this is brown.
_GREY, _BLACK, _WHITE, _BROWN = 0.12, 0.3, 0.85, 0.4


def colour_word(colour: tuple[int, int, int]) -> str:
    """What people call a colour of red, green and blue, 0 to 255."""
    hue, light, full = colorsys.rgb_to_hls(*(c / 255 for c in colour))
    if full * min(light, 1 - light) * 2 < _GREY:
        return "black" if light < _BLACK else "white" if light > _WHITE else "grey"
    word = next(word for end, word in _HUES if hue < end)
    return "brown" if word in ("orange", "yellow") and light < _BROWN else word
