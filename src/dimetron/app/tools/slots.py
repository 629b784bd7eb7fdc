"""Names of the places on the board where panes stand."""

from __future__ import annotations

#: The 3D view takes the fourth place.
PLAN, SPACE, ELEVATION, SIDE = "plan", "space", "elevation", "side"
SLOTS = (PLAN, SPACE, ELEVATION, SIDE)
FLAT_SLOTS = (PLAN, ELEVATION, SIDE)
