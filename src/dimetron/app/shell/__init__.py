"""The window, and what ties the rooms together."""
