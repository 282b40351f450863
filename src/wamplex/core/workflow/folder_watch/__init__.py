"""Enlarging every picture that arrives in a folder."""
