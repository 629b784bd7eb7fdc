"""The operations, a folder for each family and a module for each operation."""
