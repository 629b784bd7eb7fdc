"""What is written on a sheet: where lines of print stand, and what they say."""
