"""Meshes that are the same on both sides of a plane, and stay so whatever is done to one side."""

from __future__ import annotations

from dataclasses import replace

from dimetron.document.model import Document, MeshObject, with_item
from dimetron.mesh.edited import Edited
from dimetron.mesh.evening import evened, uneven
from dimetron.mesh.mesh import Mesh
from dimetron.mesh.operation import by_name


def kept_even(doc: Document, before: Document) -> Document:
    """The project with even meshes that are others than ``before`` the same on both sides again."""
    if not any(item.even for item in doc.meshes):
        return doc
    meshes = tuple(_kept(item, before) for item in doc.meshes)
    changed = any(a is not b for a, b in zip(meshes, doc.meshes, strict=True))
    return replace(doc, meshes=meshes) if changed else doc


def _kept(item: MeshObject, before: Document) -> MeshObject:
    was = before.item(item.id)
    if not item.even or not isinstance(was, MeshObject) or was.mesh is item.mesh:
        return item
    if was.made != item.made:
        # It is made anew as what it is made of says.
        return item
    mesh = evened(was.mesh, Edited(item.mesh), item.even).mesh
    return item if mesh is item.mesh else replace(item, mesh=mesh)


def with_even(doc: Document, id_: str, axis: str) -> Document:
    """The project with a mesh even across an axis, from its positive half; or no longer. Raises
    MeshError if there is nothing on that side."""
    item = doc.mesh(id_)
    if axis in item.even:
        return with_item(doc, id_, even=tuple(a for a in item.even if a != axis))
    mesh: Mesh = item.mesh
    if len(uneven(mesh, "xyz".index(axis))):
        mesh = by_name("even")(mesh, axis=axis).mesh
    return with_item(doc, id_, mesh=mesh, even=tuple(sorted((*item.even, axis))))
