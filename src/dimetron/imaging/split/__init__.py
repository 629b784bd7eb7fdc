"""From a sheet to its views: what is frame, writing and dimensions is set aside, the rest is boxed
and named from its arrangement.

``views`` runs all steps: levelled ink (``level``), frame and writing away (``furniture``), solid
regions to boxes (``regions``), and names (``naming``).
"""
