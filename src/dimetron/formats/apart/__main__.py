"""The process that reads: a path and what its numbers mean on standard input; the meshes, as the
project keeps them, on standard output; the end."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from dimetron import apart

#: What it may take: so much, and so many bytes for each of the file's.
_BASE_BYTES, _BYTES_PER_BYTE = 4 << 30, 40
_MOST_CPU_S = 600


def main() -> None:
    """Read what is asked for, within limits."""
    asked = json.loads(sys.stdin.buffer.read())
    path = Path(asked["path"])
    size = path.stat().st_size if path.is_file() else 0
    apart.begin(_MOST_CPU_S, _BASE_BYTES + _BYTES_PER_BYTE * size)
    # Loaded within the limits.
    from dimetron.formats.format import MeshFileError
    from dimetron.formats.reading import read_meshes
    from dimetron.mesh.ply import to_ply

    try:
        read = read_meshes(path, asked["unit"], asked["up"])
        meshes = [to_ply(part.mesh) for part in read.parts]
    except MeshFileError as error:
        sys.stdout.buffer.write(json.dumps({"error": str(error)}).encode() + b"\n")
        return
    except MemoryError:
        # Its limit: the one that asked says so.
        return
    told = {
        "odd": read.odd,
        "unit": read.unit,
        "up": read.up,
        "parts": [(p.name, len(data)) for p, data in zip(read.parts, meshes, strict=True)],
    }
    out = sys.stdout.buffer
    out.write(json.dumps(told).encode() + b"\n")
    for data in meshes:
        out.write(data)
    out.flush()


if __name__ == "__main__":
    main()
