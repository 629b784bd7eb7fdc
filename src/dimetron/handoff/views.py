"""Views to choose from: one, or all that something is drawn in."""

from __future__ import annotations

from dimetron.geometry.views import View

ALL = "all"
VIEWS = ((ALL, "all drawn"), *((view.value, view.title) for view in View))


def view_key(chosen: str) -> str:
    """The key of a chosen view; empty for all."""
    return "" if chosen == ALL else chosen
