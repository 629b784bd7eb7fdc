"""Dimetron: measured image planes for modeling from orthographic drawings.

The packages form layers, listed in ``docs/architecture.md``; everything below ``app`` is a library
without interface code and can be used from a script.
"""

import logging

# A library's records are for whoever uses it to hear; by itself it says nothing.
logging.getLogger(__name__).addHandler(logging.NullHandler())

__version__ = "0.1.0"
