"""Cards: one module a kind of item, with a ``CardKind``."""
