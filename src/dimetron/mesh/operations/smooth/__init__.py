"""Operations that make a surface finer and smoother."""

from dimetron.mesh.operation import Family

FAMILY = Family("Smooth", "circle-dotted", 50)
