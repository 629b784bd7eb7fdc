"""The tray: cards of all items, in their order and groups."""
