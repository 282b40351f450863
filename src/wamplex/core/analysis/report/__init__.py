"""The condition sheet: all measurements, as sentences with suggestions."""
