"""Operations on the shape as a whole."""

from dimetron.mesh.operation import Family

FAMILY = Family("Whole shape", "resize", 80)
