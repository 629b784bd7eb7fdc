"""What a window holds, without widgets: the session, settings, workers, commands."""
