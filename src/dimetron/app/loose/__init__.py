"""Loose pictures: floating over a pane, or in a window of their own."""
