"""Outlines: Bézier paths in the plane of a view, fitted to what is drawn, and what is made of them.

``path`` is the value; ``fit`` lays one through points within a miss; ``edges``, ``middles`` and
``trace`` find outlines in a picture, ``follow`` the way along its lines between two places, and
``silhouette`` what a drawing encloses. No interface, no project.
"""
