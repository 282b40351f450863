"""Workers that write files."""
