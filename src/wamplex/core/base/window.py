"""A rectangle of pixels, and the arithmetic that tiling needs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass


@dataclass(frozen=True)
class Window:
    """Pixels ``x <= column < x + width``, ``y <= row < y + height``."""

    x: int
    y: int
    width: int
    height: int

    @property
    def right(self) -> int:
        """First column after the window."""
        return self.x + self.width

    @property
    def bottom(self) -> int:
        """First row after the window."""
        return self.y + self.height

    def grown(self, halo: int, limit_width: int, limit_height: int) -> Window:
        """Window with ``halo`` more pixels on every side, kept inside the limits.

        Parameters
        ----------
        halo : pixels added on each side
        limit_width : columns of the picture
        limit_height : rows of the picture
        """
        x, y = max(self.x - halo, 0), max(self.y - halo, 0)
        right, bottom = min(self.right + halo, limit_width), min(self.bottom + halo, limit_height)
        return Window(x, y, right - x, bottom - y)

    def enlarged(self, factor: int) -> Window:
        """The same part of an enlargement.

        Parameters
        ----------
        factor : enlargement
        """
        return Window(self.x * factor, self.y * factor, self.width * factor, self.height * factor)

    def snapped(self, step: int) -> Window:
        """The smallest window around this one that begins and ends at multiples of ``step``.

        Parameters
        ----------
        step : grid, in pixels
        """
        x, y = self.x // step * step, self.y // step * step
        return Window(x, y, -(-self.right // step) * step - x, -(-self.bottom // step) * step - y)

    def holds(self, other: Window) -> bool:
        """Whether all of another lies in it.

        Parameters
        ----------
        other : another rectangle of the same picture
        """
        across = self.x <= other.x and other.right <= self.right
        return across and self.y <= other.y and other.bottom <= self.bottom

    def clipped(self, width: int, height: int) -> Window:
        """Part of the window inside ``width`` x ``height``; may be empty.

        Parameters
        ----------
        width : columns of the picture
        height : rows of the picture
        """
        x, y = min(max(self.x, 0), width), min(max(self.y, 0), height)
        right, bottom = max(min(self.right, width), x), max(min(self.bottom, height), y)
        return Window(x, y, right - x, bottom - y)

    @property
    def empty(self) -> bool:
        """Whether the window holds no pixel."""
        return self.width <= 0 or self.height <= 0

    def tiles(self, width: int, height: int) -> Iterator[Window]:
        """Windows of at most ``width`` x ``height`` that cover this one, row by row.

        Parameters
        ----------
        width : columns of a tile
        height : rows of a tile
        """
        for y in range(self.y, self.bottom, height):
            for x in range(self.x, self.right, width):
                yield Window(x, y, min(width, self.right - x), min(height, self.bottom - y))
