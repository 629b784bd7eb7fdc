"""Meshes on the GPU: buffers keyed by id and array identity, and how they are drawn."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from dimetron.geometry.camera import Camera, OrbitCamera, OrthoCamera
from dimetron.mesh.arrays import Floats, Ints, box_corners
from dimetron.mesh.hiding import drawn_edges, drawn_triangles, hidden_parts, hidden_values
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.patch import Patch
from dimetron.mesh.select import Kind
from dimetron.mesh.topology import Topology
from dimetron.render import shaders
from dimetron.render.palette import Colour, Palette
from dimetron.render.scene import MeshItem, PaneScene

#: How far lines and points are drawn before the faces they lie on, in clip depth.
_NEARER = 2e-4
#: Edges are lightened where they would cover more than this share of the mesh, down to so much.
_INKED, _LEAST_LIGHT = 0.3, 0.08
_NO_EDGES = np.zeros((0, 2), np.int32)
#: Edges that are measured to tell how close they stand.
_MEASURED = 20_000


#: In so many steps a tint goes from nothing to all.
TINT_STEPS = 5


@dataclass(slots=True)
class _Arrays:
    faces: moderngl.VertexArray
    lines: moderngl.VertexArray
    marks: moderngl.VertexArray


class _Programs:
    """The programs that draw meshes, whole or cut off at a section."""

    def __init__(self, ctx: moderngl.Context, section: bool) -> None:
        made = shaders.with_section if section else str
        vertex = made(shaders.MESH_VERTEX)
        self.face = ctx.program(vertex, made(shaders.MESH_FRAGMENT))
        self.tinted = ctx.program(
            shaders.with_tints(vertex), shaders.with_tints(made(shaders.MESH_FRAGMENT))
        )
        self.line = ctx.program(vertex, shaders.FLAT_FRAGMENT)
        self.point = ctx.program(vertex, shaders.POINT_FRAGMENT)


#: Cameras for which the lightness of edges is kept.
_CAMERAS_KEPT = 16
#: Vertices between two moved ones that are written again rather than apart.
_GAP = 2048


@dataclass(slots=True)
class _Buffers:
    """``positions``, ``patch`` and the index arrays are kept only to see whether they changed;
    near (n, 3) is what stands in ``points``, about the origin."""

    origin: Floats
    positions: Floats
    triangles: Ints
    topology: Topology
    near: NDArray[np.float32]
    points: moderngl.Buffer
    triangle_index: moderngl.Buffer
    edge_index: moderngl.Buffer
    #: Whole and cut off at a section, made when first drawn so.
    arrays: dict[bool, _Arrays]
    #: Sum of the lengths of all edges, in mm, when the buffers were made.
    length_mm: float
    #: What tells which faces are hidden, and the vertices that are drawn, if not all are.
    hidden: object = None
    shown_points: moderngl.Buffer | None = None
    #: How light the edges are drawn in each camera.
    light: dict[Camera, float] = field(default_factory=dict)
    patch: Patch | None = None
    tints: _Tints | None = None


@dataclass(slots=True)
class _Tints:
    """values is kept only to see whether they changed; arrays: whole and cut off at a section."""

    values: NDArray[np.float32]
    buffer: moderngl.Buffer
    arrays: dict[bool, moderngl.VertexArray] = field(default_factory=dict)


@dataclass(slots=True)
class _Subset:
    """Index buffer of the selected part, kept while selection and mesh stay the same."""

    selected: Ints
    triangles: Ints
    kind: Kind
    count: int
    index: moderngl.Buffer
    array: moderngl.VertexArray
    programs: _Programs


class MeshStore:
    """The buffers of the meshes that are shown, by their ids."""

    def __init__(self, ctx: moderngl.Context) -> None:
        self._ctx = ctx
        self._programs = {section: _Programs(ctx, section) for section in (False, True)}
        self._known: dict[str, _Buffers] = {}
        self._subsets: dict[str, _Subset] = {}

    @property
    def held(self) -> frozenset[str]:
        """Ids of the meshes that have buffers."""
        return frozenset(self._known)

    def keep_only(self, ids: set[str]) -> None:
        """Drop the buffers of meshes that are gone."""
        for id_ in [i for i in self._known if i not in ids]:
            self._release(id_)

    def _release(self, id_: str) -> None:
        self._drop_subset(id_)
        held = self._known.pop(id_, None)
        if held is not None:
            _drop_tints(held)
            for arrays in held.arrays.values():
                for part in (arrays.faces, arrays.lines, arrays.marks):
                    part.release()
            for buffer in (held.points, held.triangle_index, held.edge_index, held.shown_points):
                if buffer is not None:
                    buffer.release()

    def _drop_subset(self, id_: str) -> None:
        subset = self._subsets.pop(id_, None)
        if subset is not None:
            subset.array.release()
            subset.index.release()

    def _buffers(self, item: MeshItem) -> _Buffers:
        mesh = item.mesh
        held = self._known.get(item.id)
        same_faces = held is not None and held.topology is mesh.topology
        same_faces = same_faces and held is not None and held.hidden is hidden_values(mesh)
        if held is None or not same_faces or held.triangles.shape != mesh.triangles.shape:
            self._release(item.id)
            held = self._known[item.id] = self._made(item)
        if held.positions is not mesh.positions and len(mesh.positions):
            np.subtract(mesh.positions, held.origin, out=held.near, casting="same_kind")
            held.points.orphan()
            held.points.write(held.near)
            held.positions, held.patch = mesh.positions, None
            held.light.clear()
        if held.patch is not item.patch:
            _write_patch(held, item.patch)
        if held.triangles is not mesh.triangles and len(mesh.triangles):
            held.triangle_index.write(np.ascontiguousarray(drawn_triangles(mesh), "i4"))
            held.triangles = mesh.triangles
        return held

    def _made(self, item: MeshItem) -> _Buffers:
        mesh, ctx = item.mesh, self._ctx
        origin = mesh.bounds.mean(axis=0)
        near = np.empty(mesh.positions.shape, np.float32)
        np.subtract(mesh.positions, origin, out=near, casting="same_kind")
        points = _buffer(ctx, near, dynamic=True)
        triangle_index = _buffer(ctx, np.ascontiguousarray(drawn_triangles(mesh), "i4"))
        # Of a smooth surface only the faces are drawn.
        edges = drawn_edges(mesh) if item.lines or not item.faces else _NO_EDGES
        edge_index = _buffer(ctx, np.ascontiguousarray(edges, "i4"))
        return _Buffers(
            origin,
            mesh.positions,
            mesh.triangles,
            mesh.topology,
            near,
            points,
            triangle_index,
            edge_index,
            {},
            _edge_length(mesh, edges),
            hidden_values(mesh),
            self._shown_points(mesh),
        )

    def _shown_points(self, mesh: Mesh) -> moderngl.Buffer | None:
        """Which vertices are drawn, if not all are."""
        hidden = hidden_parts(mesh, Kind.VERTEX)
        if hidden is None:
            return None
        return _buffer(self._ctx, np.flatnonzero(~hidden).astype("i4"))

    def _drawn_with(self, scene: PaneScene, held: _Buffers) -> tuple[_Programs, _Arrays]:
        """The programs for a scene, with or without a section, and the arrays for them."""
        section = scene.section is not None
        programs = self._programs[section]
        arrays = held.arrays.get(section)
        if arrays is None:
            ctx, layout = self._ctx, [(held.points, "3f", "in_position")]
            arrays = held.arrays[section] = _Arrays(
                ctx.vertex_array(programs.face, layout, held.triangle_index),
                ctx.vertex_array(programs.line, layout, held.edge_index),
                ctx.vertex_array(programs.point, layout, held.shown_points),
            )
        return programs, arrays

    def draw_faces(self, scene: PaneScene, item: MeshItem, colour: Colour, relief: float) -> None:
        """Its faces in a colour; relief: how strongly light shapes them, 0 to 1."""
        held = self._buffers(item)
        programs, arrays = self._drawn_with(scene, held)
        program, faces = programs.face, arrays.faces
        if item.tints is not None and relief > 0:
            program, faces = programs.tinted, self._with_tints(scene, held, item.tints)
            palette = scene.palette
            program["u_below"].value, program["u_above"].value = palette.warning, palette.selection
            program["u_steps"].value, colour = TINT_STEPS, (*palette.veil[:3], colour[3])
        _set_camera(program, scene, held.origin, 0.0)
        right, up, toward = _eye_axes(scene)
        program["u_right"].value = tuple(right)
        program["u_up"].value = tuple(up)
        program["u_toward"].value = tuple(toward)
        program["u_colour"].value = colour
        program["u_relief"].value = relief
        if scene.section is not None:
            program["u_cut"].value = scene.palette.cut
        faces.render(moderngl.TRIANGLES)

    def _with_tints(
        self, scene: PaneScene, held: _Buffers, values: NDArray[np.float32]
    ) -> moderngl.VertexArray:
        """The array of a mesh's faces with tints."""
        ctx, section = self._ctx, scene.section is not None
        if held.tints is None or held.tints.values is not values:
            _drop_tints(held)
            held.tints = _Tints(values, _buffer(ctx, np.ascontiguousarray(values, "f4")))
        array = held.tints.arrays.get(section)
        if array is None:
            layout = [(held.points, "3f", "in_position"), (held.tints.buffer, "1f", "in_tint")]
            program = self._programs[section].tinted
            array = ctx.vertex_array(program, layout, held.triangle_index)
            held.tints.arrays[section] = array
        return array

    def draw_edges(self, scene: PaneScene, item: MeshItem, colour: Colour) -> None:
        """Its edges as hairlines."""
        held = self._buffers(item)
        programs, arrays = self._drawn_with(scene, held)
        _set_camera(programs.line, scene, held.origin, _NEARER)
        light = held.light.get(scene.camera)
        if light is None:
            if len(held.light) > _CAMERAS_KEPT:
                held.light.clear()
            light = held.light[scene.camera] = _lightness(scene, item, held.length_mm)
        strength = colour[3] * light
        programs.line["u_colour"].value = (*colour[:3], strength)
        arrays.lines.render(moderngl.LINES)

    def draw_vertices(self, scene: PaneScene, item: MeshItem, palette: Palette) -> None:
        """Its vertices as dots, the selected ones stronger."""
        held = self._buffers(item)
        self._prepare_points(scene, held, palette.label_back, palette.clay_edge, 5.0)
        arrays = self._drawn_with(scene, held)[1]
        shown = held.shown_points
        count = len(item.mesh.positions) if shown is None else shown.size // 4
        arrays.marks.render(moderngl.POINTS, vertices=count)

    def _prepare_points(
        self, scene: PaneScene, held: _Buffers, colour: Colour, rim: Colour, size: float
    ) -> None:
        program = self._programs[scene.section is not None].point
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
        programs = self._programs[scene.section is not None]
        subset = self._subset(item, held, programs)
        if item.kind is Kind.VERTEX:
            self._prepare_points(scene, held, palette.selection, palette.selection, 8.0)
            subset.array.render(moderngl.POINTS)
            return
        _set_camera(programs.line, scene, held.origin, 1.5 * _NEARER)
        strength = 0.32 if item.kind is Kind.FACE else 1.0
        programs.line["u_colour"].value = (*palette.selection[:3], strength)
        mode = moderngl.TRIANGLES if item.kind is Kind.FACE else moderngl.LINES
        subset.array.render(mode)

    def _subset(self, item: MeshItem, held: _Buffers, programs: _Programs) -> _Subset:
        known = self._subsets.get(item.id)
        fresh = (
            known is not None
            and known.selected is item.selected
            and known.kind is item.kind
            and known.triangles is item.mesh.triangles
            and known.programs is programs
        )
        if known is not None and fresh:
            return known
        self._drop_subset(item.id)
        indices = _selected_indices(item)
        index = _buffer(self._ctx, indices.astype("i4"))
        program = programs.point if item.kind is Kind.VERTEX else programs.line
        array = self._ctx.vertex_array(program, [(held.points, "3f", "in_position")], index)
        made = _Subset(
            item.selected, item.mesh.triangles, item.kind, indices.size, index, array, programs
        )
        self._subsets[item.id] = made
        return made


def _buffer(ctx: moderngl.Context, data: NDArray[Any], dynamic: bool = False) -> moderngl.Buffer:
    """A buffer of an array. One of nothing takes a word, from which nothing can be drawn."""
    return ctx.buffer(data if data.size else bytes(4), dynamic=dynamic)


def _write_patch(held: _Buffers, patch: Patch | None) -> None:
    """Bring the places of moved vertices up to date, and those that moved before and do not now."""
    if held.patch is not None and (patch is None or patch.vertices is not held.patch.vertices):
        back = held.patch.vertices
        _write(held, back, held.positions[back])
    if patch is not None:
        _write(held, patch.vertices, patch.positions)
    held.patch = patch


def _write(held: _Buffers, vertices: Ints, positions: Floats) -> None:
    if not len(vertices):
        return
    if len(vertices) == len(held.near):
        np.subtract(positions, held.origin, out=held.near, casting="same_kind")
        held.points.orphan()
        held.points.write(held.near)
        return
    held.near[vertices] = positions - held.origin
    ends = np.flatnonzero(np.diff(vertices) > _GAP)
    starts = [int(vertices[0]), *vertices[ends + 1].tolist()]
    stops = [*vertices[ends].tolist(), int(vertices[-1])]
    for start, stop in zip(starts, stops, strict=True):
        part = held.near[start : stop + 1]
        held.points.write(part, offset=start * held.near.strides[0])


def _selected_indices(item: MeshItem) -> Ints:
    if item.kind is Kind.VERTEX:
        return item.selected
    if item.kind is Kind.EDGE:
        return item.mesh.topology.edges[item.selected].ravel()
    chosen = np.zeros(item.mesh.topology.face_count, bool)
    chosen[item.selected] = True
    return item.mesh.triangles[chosen[item.mesh.topology.triangle_faces]].ravel()


def _edge_length(mesh: Mesh, edges: Ints) -> float:
    """About: of many edges every so-manieth counts for the others."""
    step = max(1, len(edges) // _MEASURED)
    ends = mesh.positions[edges[::step]]
    return float(np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum()) * step


def _lightness(scene: PaneScene, item: MeshItem, length_mm: float) -> float:
    """How much lighter edges are drawn where they are so close that they would fill the mesh."""
    corners = scene.camera.project(box_corners(item.mesh.bounds))
    if not np.isfinite(corners).all():
        return 1.0
    area = float(np.prod(np.maximum(np.ptp(corners, axis=0), 1.0)))
    inked = length_mm / scene.camera.mm_per_px / area
    return float(np.clip(_INKED / max(inked, 1e-9), _LEAST_LIGHT, 1.0))


def _set_camera(program: moderngl.Program, scene: PaneScene, origin: Floats, nearer: float) -> None:
    x, y, z = origin.tolist()
    program["u_clip"].write(_clip_bytes(scene.camera, (x, y, z), scene.half_depth))
    program["u_nearer"].value = nearer
    section = scene.section
    if section is not None:
        normal = np.array(section.normal)
        program["u_section"].value = (*section.normal, section.offset_mm - float(normal @ origin))
    if "u_point" in program:
        program["u_point"].value = 1.0


@lru_cache(maxsize=64)
def _clip_bytes(camera: Camera, origin: tuple[float, float, float], half_depth: float) -> bytes:
    return camera.clip_matrix(origin, half_depth).T.astype("f4").tobytes()


def _eye_axes(scene: PaneScene) -> tuple[Floats, Floats, Floats]:
    camera = scene.camera
    if isinstance(camera, OrthoCamera):
        frame = camera.view.directions
        return frame.right, frame.up, -frame.forward
    assert isinstance(camera, OrbitCamera)
    right, up, forward = camera.axes
    return right, up, -forward


def _drop_tints(held: _Buffers) -> None:
    tints, held.tints = held.tints, None
    if tints is not None:
        for array in tints.arrays.values():
            array.release()
        tints.buffer.release()
