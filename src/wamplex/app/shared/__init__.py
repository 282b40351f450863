"""Widgets that several steps use."""
