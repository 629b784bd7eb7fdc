"""How each format is written."""
