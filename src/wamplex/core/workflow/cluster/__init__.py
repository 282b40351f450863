"""Rendering tiles on other machines through dask."""
