"""Operations on the shape as a whole."""

from dimetron.mesh.operation import Family

FAMILY = Family("The whole shape", "resize", 80)
