"""What a kit says of itself: how to place its drawings by hand in any program."""

from __future__ import annotations

from typing import Any

_TEXT = """{title}

What is in this folder
{files}

Lengths are in millimetres unless a file's own standard says otherwise (GLB: metres, Y up).
Right-handed, Z up; the object faces -Y, so its front is seen looking along +Y. Width is X, depth
Y, height Z.

The quick way
Bring planes.glb in: every drawing is a textured plane, at its place and at its size. meshes.glb
holds the meshes in the same space. planes.obj and meshes.obj are the same for programs that read
OBJ (mm, Z up).

By hand
1. Make a plane for each row of placement.csv, as wide and as high as width_mm and height_mm say.
2. Put the picture named there on it. Its resolution is set so that it prints at true size, too.
3. Move the plane's middle to centre_x, centre_y, centre_z.
4. Turn it so that the picture's right runs along right_x, right_y, right_z and its up along
   up_x, up_y, up_z. For a drawing that is not turned these are plain axes.
5. Look at it square, without perspective.

The drawings
{drawings}
"""


def readme(title: str, files: list[tuple[str, str]], rows: list[dict[str, Any]]) -> bytes:
    """files: names, and what they are; rows: of the table of placements."""
    listed = "\n".join(f"  {name:18} {words}" for name, words in files)
    drawings = "\n".join(
        f"  {row['drawing']} ({row['view']}): {row['file']}, {row['width_mm']:g} x "
        f"{row['height_mm']:g} mm, {row['mm_per_px']:g} mm per pixel; from {row['source']}"
        for row in rows
    )
    text = _TEXT.format(title=title, files=listed, drawings=drawings or "  none")
    return text.encode("utf-8", "replace")
