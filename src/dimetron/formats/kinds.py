"""The formats that can be exported, by file ending. Light to import: the window lists them."""

#: Endings that can be exported now, with what they are.
KINDS = {
    "obj": "OBJ (polygons, drawings as textured planes)",
    "glb": "GLB (triangles, drawings as textured planes)",
    "gltf": "glTF (as GLB, in several files)",
    "stl": "STL (triangles, meshes only)",
    "ply": "PLY (polygons, meshes only)",
}
