"""What file is asked for: format, profile, name, size limits."""
