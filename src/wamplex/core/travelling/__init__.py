"""Recipes that go from one picture to others: what of them can, where they are kept, what is alike."""
