"""Guests: files enlarged elsewhere, taken in as trials of the picture that they show."""
