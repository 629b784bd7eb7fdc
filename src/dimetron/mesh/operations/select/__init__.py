"""What is worked on, and what is seen of it."""

from dimetron.mesh.operation import Family

FAMILY = Family("Select and see", "pointer", 10, columns=3)
