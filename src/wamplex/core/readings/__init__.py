"""Numbers that say how good a result is."""
