"""What can be made of outlines: a module each."""
