"""Finding faces and eyes."""
