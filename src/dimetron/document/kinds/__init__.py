"""Kinds of item: one module each, with an ``ItemKind``."""
