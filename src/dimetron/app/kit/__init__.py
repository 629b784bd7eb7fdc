"""Widgets and values that know no project."""
