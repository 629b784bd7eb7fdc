"""The route: stations, the tool in hand, the last operation's numbers."""
