"""Files of curves, read as outlines: SVG and DXF."""
