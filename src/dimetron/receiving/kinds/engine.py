"""A game engine's import."""

from __future__ import annotations

from dimetron.receiving.receiver import Receiver

ENGINE = Receiver(
    "engine",
    "game engine",
    (".glb", ".gltf", ".obj"),
    unit="m",
    up="y",
    triangles=50_000,
    texture=4096,
)
