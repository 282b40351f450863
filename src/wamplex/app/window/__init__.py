"""The one window, and what lies around the steps."""
