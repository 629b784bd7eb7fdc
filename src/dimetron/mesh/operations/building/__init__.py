"""Operations that add to a mesh or take from it."""

from dimetron.mesh.operation import Family

FAMILY = Family("Build", "arrow-bar-up", 30)
