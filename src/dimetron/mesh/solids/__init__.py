"""Solids and sheets made from plain polygons that lie in the planes of views."""
