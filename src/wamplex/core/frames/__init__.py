"""Several frames of one scene joined into one enlargement: aligning, what to trust, solving, the upscaler."""
