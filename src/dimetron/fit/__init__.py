"""How far what is modelled misses what is drawn: the outlines of both held against each other.

``modelled`` is the outline of meshes in a view, with its places in space; ``line`` an outline that
knows what of it is nearest; ``miss`` the figures.
Nothing here knows projects or pictures.
"""
