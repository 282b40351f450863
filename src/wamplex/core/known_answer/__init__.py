"""The known-answer test: shrink, enlarge again with every trial, compare with the truth."""
