"""Units and lengths, the principal views, placements in a view plane, and cameras.

Everything here is float64, in millimetres, right-handed with Z up; the object faces -Y.
"""
