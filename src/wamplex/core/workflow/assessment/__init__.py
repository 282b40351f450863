"""Measuring pictures in a worker process."""
