"""Shapes to begin with."""

from dimetron.mesh.operation import Family

FAMILY = Family("Start", "cube-plus", 20)
