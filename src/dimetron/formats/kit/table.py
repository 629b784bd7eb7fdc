"""By what a folder is known to be a kit."""

#: The table of placements; an earlier kit that holds it may be replaced.
TABLE = "placement.json"
