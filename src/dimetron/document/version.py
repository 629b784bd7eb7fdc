"""Versions: shapes that a mesh had, kept by name to return to."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dimetron.document.edits import free_name
from dimetron.document.model import Document, new_id, with_item
from dimetron.mesh.mesh import Mesh


@dataclass(frozen=True, slots=True)
class Version:
    """of: the id of the mesh it is a version of. It is never shown on the board."""

    id: str
    name: str
    mesh: Mesh
    of: str
    shown: bool = True
    held: bool = False
    group: str | None = None


def versions_of(doc: Document, id_: str) -> tuple[Version, ...]:
    """The versions of a mesh that are kept, the oldest first."""
    return tuple(item for item in doc.further if isinstance(item, Version) and item.of == id_)


def with_version(doc: Document, id_: str, name: str = "") -> tuple[Document, str]:
    """The project with a mesh's present shape kept as a version, and its id. Raises KeyError."""
    item = doc.mesh(id_)
    number = len(versions_of(doc, id_)) + 1
    wanted = name or f"{item.name}, version {number}"
    made = Version(new_id(), free_name(doc, wanted), item.mesh, id_, group=item.group)
    return replace(doc, further=(*doc.further, made)), made.id


def returned(doc: Document, id_: str) -> Document:
    """The project with a mesh as it was in a version. Raises KeyError if either is gone."""
    version = doc.item(id_)
    if not isinstance(version, Version) or doc.item(version.of) is None:
        raise KeyError(id_)
    return with_item(doc, version.of, mesh=version.mesh, made=None)
