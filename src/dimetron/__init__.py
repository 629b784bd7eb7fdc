"""Dimetron: measured image planes for modeling from orthographic drawings.

The packages form layers, listed in ``docs/architecture.md``; everything below ``app`` is a library
without interface code and can be used from a script.
"""

__version__ = "0.1.0"
