"""Operations that repeat a mesh."""

from dimetron.mesh.operation import Family

FAMILY = Family("Copies", "copies", 65)
