"""The polygon mesh as an immutable value, and every operation on it as a pure function."""
