"""A mesh's health in a line."""

from __future__ import annotations

from weakref import WeakKeyDictionary

from dimetron.mesh.findings import Finding, findings
from dimetron.mesh.mesh import Mesh

#: Larger meshes are looked over when asked, not whenever their card is shown.
_MOST_CORNERS = 200_000

_known: WeakKeyDictionary[Mesh, tuple[Finding, ...]] = WeakKeyDictionary()


def health_of(mesh: Mesh) -> tuple[Finding, ...]:
    """What is to be said of a mesh, kept while it is there."""
    found = _known.get(mesh)
    if found is None:
        found = _known[mesh] = findings(mesh)
    return found


def health_words(mesh: Mesh) -> str:
    """The gravest first."""
    if len(mesh.topology.corners) > _MOST_CORNERS and mesh not in _known:
        return "see Health"
    found = health_of(mesh)
    if not found:
        return "sound"
    more = f", and {len(found) - 1} more" if len(found) > 1 else ""
    return f"{found[0].words}{more}"
