"""Writing print files: names, formats, checks."""
