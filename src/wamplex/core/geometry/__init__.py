"""Sizes: factor, pixels, print size, viewing distance."""
