"""Threads; they hold no widget."""
