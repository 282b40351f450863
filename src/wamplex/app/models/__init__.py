"""State and signals; no widgets and no pixel arithmetic."""
