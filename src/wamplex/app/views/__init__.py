"""Widgets: they show models and hand on what the user wants."""
