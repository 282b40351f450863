"""Colour profiles and conversions between them."""
