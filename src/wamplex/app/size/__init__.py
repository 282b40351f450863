"""The second step: crop, sheet and size."""
