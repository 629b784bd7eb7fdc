"""Tools: small state machines without Qt.

The board feeds them events in pane pixels and world units. They preview by handing a document to
the bench, commit one history step per gesture, and drop everything with Escape. What they want
drawn they name as overlays; what can be typed they name as fields. The names are shown by the
route, so every tool works by typing as well as by dragging.
"""
