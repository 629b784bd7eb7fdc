"""Meshes on the GPU: buffers keyed by id and array identity, and how they are drawn."""

from __future__ import annotations

from dataclasses import dataclass

import moderngl
import numpy as np

from dimetron.geometry.camera import OrbitCamera, OrthoCamera
from dimetron.mesh.mesh import Floats, Ints, Mesh
from dimetron.mesh.select import Kind
from dimetron.render import shaders
from dimetron.render.palette import Colour, Palette
from dimetron.render.scene import MeshItem, PaneScene

#: How far lines and points are drawn before the faces they lie on, in clip depth.
_NEARER = 2e-4
#: Edges are lightened where they would cover more than this share of the mesh, down to so much.
_INKED, _LEAST_LIGHT = 0.3, 0.08
#: The corners of a box by its lower and upper end.
_BITS = (np.arange(8)[:, None] >> np.arange(3)) & 1


@dataclass(slots=True)
class _Buffers:
    """``positions`` and the index arrays are kept only to see whether they changed."""

    origin: Floats
    positions: Floats
    triangles: Ints
    edges: Ints
    points: moderngl.Buffer
    triangle_index: moderngl.Buffer
    edge_index: moderngl.Buffer
    faces: moderngl.VertexArray
    lines: moderngl.VertexArray
    marks: moderngl.VertexArray
    #: Sum of the lengths of all edges, in mm, when the buffers were made.
    length_mm: float


@dataclass(slots=True)
class _Subset:
    """Index buffer of the selected part, kept while selection and mesh stay the same."""

    selected: Ints
    triangles: Ints
    kind: Kind
    count: int
    index: moderngl.Buffer
    array: moderngl.VertexArray


class MeshStore:
    def __init__(self, ctx: moderngl.Context) -> None:
        self._ctx = ctx
        self._face_program = ctx.program(shaders.MESH_VERTEX, shaders.MESH_FRAGMENT)
        self._line_program = ctx.program(shaders.MESH_VERTEX, shaders.FLAT_FRAGMENT)
        self._point_program = ctx.program(shaders.MESH_VERTEX, shaders.POINT_FRAGMENT)
        self._known: dict[str, _Buffers] = {}
        self._subsets: dict[str, _Subset] = {}

    def keep_only(self, ids: set[str]) -> None:
        """Drop the buffers of meshes that are gone."""
        for id_ in [i for i in self._known if i not in ids]:
            self._release(id_)

    def _release(self, id_: str) -> None:
        self._drop_subset(id_)
        held = self._known.pop(id_, None)
        if held is not None:
            for part in (held.faces, held.lines, held.marks):
                part.release()
            for buffer in (held.points, held.triangle_index, held.edge_index):
                buffer.release()

    def _drop_subset(self, id_: str) -> None:
        subset = self._subsets.pop(id_, None)
        if subset is not None:
            subset.array.release()
            subset.index.release()

    def _buffers(self, item: MeshItem) -> _Buffers:
        mesh = item.mesh
        held = self._known.get(item.id)
        same_faces = held is not None and held.edges is mesh.topology.edges
        if held is None or not same_faces or held.triangles.shape != mesh.triangles.shape:
            self._release(item.id)
            held = self._known[item.id] = self._made(item)
        if held.positions is not mesh.positions:
            held.points.orphan()
            held.points.write((mesh.positions - held.origin).astype("f4").tobytes())
            held.positions = mesh.positions
        if held.triangles is not mesh.triangles:
            held.triangle_index.write(mesh.triangles.astype("i4").tobytes())
            held.triangles = mesh.triangles
        return held

    def _made(self, item: MeshItem) -> _Buffers:
        mesh, ctx = item.mesh, self._ctx
        origin = mesh.bounds.mean(axis=0)
        points = ctx.buffer((mesh.positions - origin).astype("f4").tobytes(), dynamic=True)
        triangle_index = ctx.buffer(mesh.triangles.astype("i4").tobytes())
        edge_index = ctx.buffer(mesh.topology.edges.astype("i4").tobytes())
        layout = [(points, "3f", "in_position")]
        return _Buffers(
            origin,
            mesh.positions,
            mesh.triangles,
            mesh.topology.edges,
            points,
            triangle_index,
            edge_index,
            ctx.vertex_array(self._face_program, layout, triangle_index),
            ctx.vertex_array(self._line_program, layout, edge_index),
            ctx.vertex_array(self._point_program, layout),
            _edge_length(mesh),
        )

    def draw_faces(self, scene: PaneScene, item: MeshItem, colour: Colour, relief: float) -> None:
        held = self._buffers(item)
        program = self._face_program
        _set_camera(program, scene, held.origin, 0.0)
        right, up, toward = _eye_axes(scene)
        program["u_right"].value = tuple(right)
        program["u_up"].value = tuple(up)
        program["u_toward"].value = tuple(toward)
        program["u_colour"].value = colour
        program["u_relief"].value = relief
        cut = scene.palette.cut
        program["u_cut"].value = (*cut[:3], 1.0 if scene.section is not None else 0.0)
        held.faces.render(moderngl.TRIANGLES)

    def draw_edges(self, scene: PaneScene, item: MeshItem, colour: Colour) -> None:
        held = self._buffers(item)
        _set_camera(self._line_program, scene, held.origin, _NEARER)
        strength = colour[3] * _lightness(scene, item, held.length_mm)
        self._line_program["u_colour"].value = (*colour[:3], strength)
        held.lines.render(moderngl.LINES)

    def draw_vertices(self, scene: PaneScene, item: MeshItem, palette: Palette) -> None:
        held = self._buffers(item)
        self._prepare_points(scene, held, palette.label_back, palette.clay_edge, 5.0)
        held.marks.render(moderngl.POINTS, vertices=len(item.mesh.positions))

    def _prepare_points(
        self, scene: PaneScene, held: _Buffers, colour: Colour, rim: Colour, size: float
    ) -> None:
        program = self._point_program
        _set_camera(program, scene, held.origin, 2 * _NEARER)
        program["u_point"].value = size * scene.pixel_ratio
        program["u_colour"].value = (*colour[:3], 1.0)
        program["u_rim"].value = rim
        self._ctx.enable(moderngl.PROGRAM_POINT_SIZE)

    def draw_selected(self, scene: PaneScene, item: MeshItem, palette: Palette) -> None:
        """The selected vertices, edges or faces, in the selection colour."""
        if not len(item.selected):
            return
        held = self._buffers(item)
        subset = self._subset(item, held)
        if item.kind is Kind.VERTEX:
            self._prepare_points(scene, held, palette.selection, palette.selection, 8.0)
            subset.array.render(moderngl.POINTS)
            return
        _set_camera(self._line_program, scene, held.origin, 1.5 * _NEARER)
        strength = 0.32 if item.kind is Kind.FACE else 1.0
        self._line_program["u_colour"].value = (*palette.selection[:3], strength)
        mode = moderngl.TRIANGLES if item.kind is Kind.FACE else moderngl.LINES
        subset.array.render(mode)

    def _subset(self, item: MeshItem, held: _Buffers) -> _Subset:
        known = self._subsets.get(item.id)
        fresh = (
            known is not None
            and known.selected is item.selected
            and known.kind is item.kind
            and known.triangles is item.mesh.triangles
        )
        if known is not None and fresh:
            return known
        self._drop_subset(item.id)
        indices = _selected_indices(item)
        index = self._ctx.buffer(indices.astype("i4").tobytes())
        program = self._point_program if item.kind is Kind.VERTEX else self._line_program
        array = self._ctx.vertex_array(program, [(held.points, "3f", "in_position")], index)
        made = _Subset(item.selected, item.mesh.triangles, item.kind, indices.size, index, array)
        self._subsets[item.id] = made
        return made


def _selected_indices(item: MeshItem) -> Ints:
    if item.kind is Kind.VERTEX:
        return item.selected
    if item.kind is Kind.EDGE:
        return item.mesh.topology.edges[item.selected].ravel()
    chosen = np.zeros(item.mesh.topology.face_count, bool)
    chosen[item.selected] = True
    return item.mesh.triangles[chosen[item.mesh.topology.triangle_faces]].ravel()


def _edge_length(mesh: Mesh) -> float:
    ends = mesh.positions[mesh.topology.edges]
    return float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum())


def _lightness(scene: PaneScene, item: MeshItem, length_mm: float) -> float:
    """How much lighter edges are drawn where they are so close that they would fill the mesh."""
    low, high = item.mesh.bounds
    ends = np.stack([low, high])
    corners = scene.camera.project(ends[_BITS, np.arange(3)])
    if not np.isfinite(corners).all():
        return 1.0
    area = float(np.prod(np.maximum(np.ptp(corners, axis=0), 1.0)))
    inked = length_mm / scene.camera.mm_per_px / area
    return float(np.clip(_INKED / max(inked, 1e-9), _LEAST_LIGHT, 1.0))


def _set_camera(program: moderngl.Program, scene: PaneScene, origin: Floats, nearer: float) -> None:
    matrix = scene.camera.clip_matrix(origin, scene.reach)
    program["u_clip"].write(matrix.T.astype("f4").tobytes())
    program["u_nearer"].value = nearer
    section = scene.section
    if section is None:
        program["u_section"].value = (0.0, 0.0, 0.0, 1.0)
    else:
        normal = np.array(section.normal)
        program["u_section"].value = (*section.normal, section.offset_mm - float(normal @ origin))
    if "u_point" in program:
        program["u_point"].value = 1.0


def _eye_axes(scene: PaneScene) -> tuple[Floats, Floats, Floats]:
    camera = scene.camera
    if isinstance(camera, OrthoCamera):
        frame = camera.view.frame
        return frame.right, frame.up, -frame.forward
    assert isinstance(camera, OrbitCamera)
    right, up, forward = camera.axes
    return right, up, -forward
