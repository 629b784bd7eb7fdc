"""Operations that divide faces and edges."""

from dimetron.mesh.operation import Family

FAMILY = Family("Cut", "knife", 40)
