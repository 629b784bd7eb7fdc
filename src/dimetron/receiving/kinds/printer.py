"""A printer's import."""

from __future__ import annotations

from dimetron.receiving.receiver import Receiver

PRINTER = Receiver(
    "printer",
    "printer",
    (".stl", ".3mf", ".obj", ".ply"),
    triangles=2_000_000,
    closed=True,
    wall=1.0,
    largest=(250.0, 210.0, 220.0),
)
