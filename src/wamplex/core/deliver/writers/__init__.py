"""One writer for each file format."""
