"""Operations that make one side like the other."""

from dimetron.mesh.operation import Family

FAMILY = Family("Even and mirrored", "flip-horizontal", 60)
