"""Divides an image into tiles."""

from __future__ import annotations

# Rows of an interpolated band, at least and at most, and the bytes it may take beyond the least.
_LEAST_ROWS, _MOST_ROWS = 256, 1024
_BAND_BYTES = 100_000_000


def band_shape(width: int, channels: int) -> tuple[int, int]:
    """Columns and rows of the bands that resampling is done in, for a result of so many columns."""
    return width, max(_LEAST_ROWS, min(_MOST_ROWS, _BAND_BYTES // (width * channels * 4)))


def tile_shape(width: int, height: int, halo: int, area: int) -> tuple[int, int]:
    """The even division of an image into tiles that computes the fewest pixels, halos included.

    Parameters
    ----------
    width, height : of the image in pixels
    area : most pixels of a tile with its halo, unless a single pixel with its halo is larger

    Returns
    -------
    Columns and rows of a tile without its halo, in the image's pixels.

    Examples
    --------
    >>> tile_shape(1500, 1000, 14, 600_000)
    (500, 1000)
    """
    best, best_cost = (1, 1), float("inf")
    for columns in range(1, width + 1):
        tile_width = -(-width // columns)
        inner_height = area // (tile_width + 2 * halo) - 2 * halo
        if inner_height < 1:
            continue
        rows = -(-height // min(inner_height, height))
        tile_height = -(-height // rows)
        cost = (width + 2 * halo * (columns - 1)) * (height + 2 * halo * (rows - 1))
        if cost < best_cost:
            best, best_cost = (tile_width, tile_height), cost
        if tile_width <= 2 * halo:
            break
    return best
