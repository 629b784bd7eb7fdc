"""Operations that make a mesh sound."""

from dimetron.mesh.operation import Family

FAMILY = Family("Health", "check", 99)
