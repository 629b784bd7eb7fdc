"""File names that any system takes."""

from __future__ import annotations

import re
from collections.abc import Container

_LONGEST = 60


def plain_stem(name: str, otherwise: str) -> str:
    """A name with nothing in it that some system refuses; ``otherwise`` if nothing is left."""
    return re.sub(r"[^\w-]+", "-", name, flags=re.ASCII).strip("-")[:_LONGEST] or otherwise


def free_file(stem: str, ending: str, taken: Container[str]) -> str:
    """A file name unlike others."""
    found, number = f"{stem}{ending}", 2
    while found in taken:
        found, number = f"{stem}-{number}{ending}", number + 1
    return found
