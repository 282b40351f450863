"""Worker processes, and how the program talks to them."""
