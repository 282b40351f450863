"""Reading picture files."""
