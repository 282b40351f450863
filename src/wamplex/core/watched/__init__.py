"""A folder whose pictures are enlarged by a recipe as they come in."""
