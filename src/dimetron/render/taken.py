"""What a snapshot is, without what makes it: known from the start, made when it is wanted."""

from __future__ import annotations

import enum
from dataclasses import dataclass
from typing import TYPE_CHECKING

from dimetron.geometry.placement import Placement

if TYPE_CHECKING:
    from PIL import Image


class Taken(enum.Enum):
    """What a snapshot looks like."""

    SILHOUETTE = "silhouette"
    LINES = "lines"
    SHADED = "shaded"


@dataclass(frozen=True, slots=True, eq=False)
class Snapshot:
    """A grey picture, and where it lies in its view's plane."""

    picture: Image.Image
    placement: Placement


class NothingToTake(ValueError):
    """No mesh is shown."""
