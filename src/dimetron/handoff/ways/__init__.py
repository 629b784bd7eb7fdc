"""The ways to hand a project off, a module each."""
