"""Tiles of results made on other machines, over dask.distributed."""
