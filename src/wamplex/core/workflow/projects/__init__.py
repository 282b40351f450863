"""The project file."""
