"""Recipes in the window: kept under names, read from files, used for several pictures."""
