"""The set-up as a kit: a folder from which it can be built in any program."""
