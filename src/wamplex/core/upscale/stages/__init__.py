"""Stages that make any window of an image: resampling, rotation, correction."""
