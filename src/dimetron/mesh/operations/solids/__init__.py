"""Operations on closed meshes as the solids they enclose."""

from dimetron.mesh.operation import Family

FAMILY = Family("Solids", "solids", 70)
