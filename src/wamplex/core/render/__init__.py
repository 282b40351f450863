"""(Picture, recipe, window) to pixels: the only way result pixels are made."""
