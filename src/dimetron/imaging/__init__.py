"""Reading pictures and making them ready to be shown at any zoom, without interface code."""
