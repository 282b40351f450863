"""Noise, blur, sharpening, motion, earlier enlargement."""
