"""3MF as an export: an object for each mesh, of triangles.

Format: 3MF Core Specification 1.3 (3MF Consortium; ISO/IEC 25422), in an Open Packaging Conventions
package (ISO/IEC 29500-2).
"""

from __future__ import annotations

import io
import zipfile
from xml.sax.saxutils import quoteattr

import numpy as np

from dimetron.formats.handover import Handover
from dimetron.formats.named import NamedMesh

_UNITS = {"mm": "millimeter", "cm": "centimeter", "m": "meter", "in": "inch", "ft": "foot"}
_CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
_PACKAGE = "http://schemas.openxmlformats.org/package/2006"
_TYPES = (
    f'<Types xmlns="{_PACKAGE}/content-types">'
    '<Default Extension="rels" '
    'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" '
    'ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
    "</Types>"
)
_RELATIONS = (
    f'<Relationships xmlns="{_PACKAGE}/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="model" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)
_DECLARATION = '<?xml version="1.0" encoding="UTF-8"?>\n'
#: The same project gives the same file.
_DATE = (1980, 1, 1, 0, 0, 0)


def write(given: Handover, stem: str, ending: str) -> dict[str, bytes]:
    """File name to bytes."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as box:
        for name, text in (
            ("[Content_Types].xml", _TYPES),
            ("_rels/.rels", _RELATIONS),
            ("3D/3dmodel.model", _model(given)),
        ):
            box.writestr(zipfile.ZipInfo(name, _DATE), _DECLARATION + text, zipfile.ZIP_DEFLATED)
    return {f"{stem}.3mf": out.getvalue()}


def _model(given: Handover) -> str:
    colours = list(dict.fromkeys(_colour(item) for item in given.meshes if item.colour))
    objects = _materials(colours, len(given.meshes) + 1) + "".join(
        _object(number, item, colours, len(given.meshes) + 1)
        for number, item in enumerate(given.meshes, 1)
    )
    items = "".join(f'<item objectid="{number}"/>' for number in range(1, len(given.meshes) + 1))
    return (
        f'<model unit="{_UNITS[given.unit]}" xml:lang="en-US" xmlns="{_CORE}">\n'
        f"<resources>\n{objects}</resources>\n<build>{items}</build>\n</model>\n"
    )


def _colour(item: NamedMesh) -> str:
    """As the format has it: #RRGGBBAA."""
    return f"{item.colour}{round(item.opacity * 255):02x}".upper()


def _materials(colours: list[str], number: int) -> str:
    if not colours:
        return ""
    bases = "".join(f'<base name="{c}" displaycolor="{c}"/>' for c in colours)
    return f'<basematerials id="{number}">{bases}</basematerials>\n'


def _object(number: int, item: NamedMesh, colours: list[str], materials: int) -> str:
    vertices, triangles = io.StringIO(), io.StringIO()
    np.savetxt(vertices, item.mesh.positions, fmt='<vertex x="%.9g" y="%.9g" z="%.9g"/>')
    np.savetxt(triangles, item.mesh.triangles, fmt='<triangle v1="%d" v2="%d" v3="%d"/>')
    # What XML has no place for is left out of a name.
    name = "".join(c for c in item.name if c.isprintable())
    of = f' pid="{materials}" pindex="{colours.index(_colour(item))}"' if item.colour else ""
    return (
        f'<object id="{number}" type="model" name={quoteattr(name)}{of}><mesh>\n'
        f"<vertices>\n{vertices.getvalue()}</vertices>\n"
        f"<triangles>\n{triangles.getvalue()}</triangles>\n</mesh></object>\n"
    )
