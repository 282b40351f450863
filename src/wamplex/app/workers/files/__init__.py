"""Workers that read and watch files."""
