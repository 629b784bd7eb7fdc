"""Health of meshes, and operations on all of one."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from dimetron.mesh.arrays import MeshError
from dimetron.mesh.edit import turned_over
from dimetron.mesh.health import Health, health
from dimetron.mesh.layers import Layer, On
from dimetron.mesh.mesh import Mesh, from_faces
from dimetron.mesh.operation import by_name
from dimetron.mesh.primitives import box
from dimetron.mesh.topology import Topology

WELD, MIRROR = by_name("weld"), by_name("mirror")
BOX = box((0, 0, 0), (1, 2, 3))
SOUND = Health(8, 6, 1, True, 6.0, 22.0, 0, 0, 0, 0, 0, 0, 0, 0)


def faces_of(mesh: Mesh) -> list[list[int]]:
    return [mesh.topology.face(at).tolist() for at in range(mesh.topology.face_count)]


def together(*meshes: Mesh) -> Mesh:
    points = np.concatenate([m.positions for m in meshes])
    faces, first = [], 0
    for mesh in meshes:
        faces += [[v + first for v in face] for face in faces_of(mesh)]
        first += len(mesh.positions)
    return from_faces(points, faces)


def test_a_box_is_sound() -> None:
    assert health(BOX) == SOUND
    far = health(BOX.with_positions(BOX.positions + 1e5))
    assert far.volume_mm3 == pytest.approx(6)


def test_each_fault_is_counted_by_itself() -> None:
    faces = faces_of(BOX)
    some = from_faces(BOX.positions, faces[1:])
    assert health(some).open_edges == 4
    assert not health(some).closed
    assert health(some).flipped_faces == 0
    # Turned, and begun at another corner.
    again = from_faces(BOX.positions, [*faces, faces[0][::-1][1:] + faces[0][::-1][:1]])
    found = health(again)
    assert (found.doubled_faces, found.nonmanifold_edges, found.closed) == (1, 4, False)
    loose = Mesh(
        np.concatenate([BOX.positions, BOX.positions[:1], [[9, 9, 9]]]),
        Topology(BOX.topology.offsets, BOX.topology.corners, 10),
    )
    assert health(loose) == replace(SOUND, vertices=10, doubled_vertices=1, loose_vertices=2)
    flat = from_faces([*BOX.positions, (0.5, 0, 0)], [*faces, [0, 8, 0]])
    assert health(flat).zero_area_faces == 1
    fan = from_faces([(0, 0, 0), (2, 0, 0), (3, 1, 0), (1, 2, 0), (-1, 1, 0)], [[0, 1, 2, 3, 4]])
    assert health(fan).ngons == 1
    assert health(from_faces(np.zeros((0, 3)), [])) == Health(*[0] * 3, False, *[0] * 10)


@given(st.sets(st.integers(0, 5), max_size=6))
def test_the_fewest_faces_to_turn(turned: set[int]) -> None:
    faces = [f[::-1] if at in turned else f for at, f in enumerate(faces_of(BOX))]
    assert health(from_faces(BOX.positions, faces)).flipped_faces == len(turned)
    # An open one has no outside: it may as well be turned over.
    opened = from_faces(BOX.positions, faces[:5])
    there = len(turned - {5})
    assert health(opened).flipped_faces == min(there, 5 - there)


def test_shells_are_counted_apart() -> None:
    other = box((5, 0, 0), (6, 1, 1))
    pair = together(BOX, turned_over(other))
    found = health(pair)
    assert (found.shells, found.flipped_faces, found.volume_mm3) == (2, 6, pytest.approx(5))
    # Such as touch in a corner only are two.
    touching = WELD(together(BOX, box((1, 2, 3), (2, 3, 4))), within=0).mesh
    assert (health(touching).vertices, health(touching).shells) == (15, 2)


@pytest.mark.parametrize("solid", ["icosphere", "annulus", "capsule"])
def test_numbers_agree_with_trimesh(solid: str) -> None:
    made = {
        "icosphere": lambda: trimesh.creation.icosphere(2, 3),
        "annulus": lambda: trimesh.creation.annulus(5, 9, 4),
        "capsule": lambda: trimesh.creation.capsule(4, 2),
    }[solid]()
    found = health(from_faces(made.vertices, np.asarray(made.faces)))
    assert found.volume_mm3 == pytest.approx(made.volume)
    assert found.area_mm2 == pytest.approx(made.area)
    assert found.closed == made.is_watertight
    assert found.flipped_faces == 0


def test_triangles_cover_the_same() -> None:
    cut = by_name("triangulate")(BOX).mesh
    assert cut.topology.sizes.tolist() == [3] * 12
    assert health(cut) == replace(SOUND, faces=12)


@pytest.mark.parametrize("axis", [0, 1, 2])
def test_a_mirror_image_looks_outward_too(axis: int) -> None:
    image = MIRROR(BOX, axis="xyz"[axis]).mesh
    assert health(image) == SOUND
    assert image.bounds[0, axis] == -BOX.bounds[1, axis]
    assert image.bounds[1, axis] == 0
    assert np.array_equal(MIRROR(image, axis="xyz"[axis]).mesh.positions, BOX.positions)


def test_welding_joins_what_is_near_and_keeps_the_rest_as_it_is() -> None:
    apart = from_faces(BOX.positions[BOX.topology.corners], np.arange(24).reshape(-1, 4))
    assert health(apart).doubled_vertices == 16
    assert health(WELD(apart, within=0).mesh) == SOUND
    near = apart.positions.copy()
    near[3] += (0.004, 0, 0)
    close = from_faces(near, np.arange(24).reshape(-1, 4))
    assert health(WELD(close, within=0.001).mesh).vertices == 9
    joined = WELD(close, within=0.01).mesh
    assert health(joined).closed
    assert np.abs(joined.bounds - BOX.bounds).max() < 0.004
    # A whole side within the distance: its faces go, and what is left is closed.
    thin = WELD(box((0, 0, 0), (1, 1, 0.1)), within=0.2).mesh
    assert thin.topology.face_count == 2
    assert WELD(BOX, within=0.5).mesh.topology.corners.tolist() == BOX.topology.corners.tolist()
    # Of edges that become one, the first one's crease stays.
    pair = from_faces(
        [(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 0), (0, -1, 0), (1, 0, 0)],
        [[0, 1, 2], [3, 4, 5]],
    )
    numbers = np.arange(1, 7, dtype=np.float32) / 8
    seam = WELD(pair.with_layer("crease", Layer(On.EDGE, numbers)), within=0.1).mesh
    ends = np.array([0]), np.array([1])
    old = numbers[pair.topology.edge_between(*ends)]
    assert seam.layers["crease"].values[seam.topology.edge_between(*ends)] == old
    assert len(seam.topology.edges) == 5
    for bad in (-1.0, float("nan"), float("inf")):
        with pytest.raises(MeshError):
            WELD(BOX, within=bad)
