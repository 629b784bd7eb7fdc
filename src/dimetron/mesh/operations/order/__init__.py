"""Operations that change faces and leave the shape."""

from dimetron.mesh.operation import Family

FAMILY = Family("Order", "layout-board", 90)
