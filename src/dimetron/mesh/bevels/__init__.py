"""Edges replaced by bands of faces: what it makes where, how wide, and how round."""
