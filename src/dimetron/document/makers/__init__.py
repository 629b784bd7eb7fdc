"""What can be made of outlines, and copies that can be made of meshes: a module each."""
