"""Shapes to begin with: a module each."""
