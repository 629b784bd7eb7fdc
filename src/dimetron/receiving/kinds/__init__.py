"""The receivers, a module each."""
