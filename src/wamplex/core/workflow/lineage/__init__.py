"""Which results were made of which source."""
