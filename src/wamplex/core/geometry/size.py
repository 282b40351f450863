"""One size seen three ways: as a factor, as pixels, and as a print at a density."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from wamplex.core.base.errors import SizeError

MM_PER_INCH = 25.4
LEAST_FACTOR = 0.25
LARGEST_FACTOR = 8.0
LEAST_DENSITY_PPI = 10.0
LARGEST_DENSITY_PPI = 4800.0
DEFAULT_DENSITY_PPI = 300.0


@dataclass(frozen=True)
class Size:
    """What an enlargement comes to; proportions always stay those of the source.

    Attributes
    ----------
    source_width, source_height : pixels before
    factor : linear enlargement, 0.25 to 8
    density_ppi : pixels per inch of the print
    """

    source_width: int
    source_height: int
    factor: float
    density_ppi: float = DEFAULT_DENSITY_PPI

    def __post_init__(self) -> None:
        if not math.isfinite(self.factor) or not LEAST_FACTOR <= self.factor <= LARGEST_FACTOR:
            minimum, maximum = LEAST_FACTOR, LARGEST_FACTOR
            raise SizeError(
                f"A factor of {self.factor:.4g} is outside {minimum:g} to {maximum:g}. From "
                f"{self.source_width} × {self.source_height} px, that is {self._pixels_at(minimum)} "
                f"to {self._pixels_at(maximum)}."
            )
        if not LEAST_DENSITY_PPI <= self.density_ppi <= LARGEST_DENSITY_PPI:
            raise SizeError(
                f"A density of {self.density_ppi:.4g} ppi is outside {LEAST_DENSITY_PPI:g} to "
                f"{LARGEST_DENSITY_PPI:g} ppi."
            )

    def _pixels_at(self, factor: float) -> str:
        width, height = output_pixels(self.source_width, self.source_height, factor)
        return f"{width} × {height} px"

    @property
    def width_px(self) -> int:
        """Columns after."""
        return output_pixels(self.source_width, self.source_height, self.factor)[0]

    @property
    def height_px(self) -> int:
        """Rows after."""
        return output_pixels(self.source_width, self.source_height, self.factor)[1]

    @property
    def megapixels(self) -> float:
        """Millions of pixels after."""
        return self.width_px * self.height_px / 1e6

    @property
    def width_mm(self) -> float:
        """Width of the print."""
        return self.width_px * MM_PER_INCH / self.density_ppi

    @property
    def height_mm(self) -> float:
        """Height of the print."""
        return self.height_px * MM_PER_INCH / self.density_ppi

    def with_factor(self, factor: float) -> Size:
        """The size at another factor.

        Parameters
        ----------
        factor : enlargement, 0.25 to 8
        """
        return replace(self, factor=factor)

    def with_width_px(self, width_px: float) -> Size:
        """The size that is ``width_px`` wide.

        Parameters
        ----------
        width_px : columns of the result
        """
        return replace(self, factor=width_px / self.source_width)

    def with_height_px(self, height_px: float) -> Size:
        """The size that is ``height_px`` high.

        Parameters
        ----------
        height_px : rows of the result
        """
        return replace(self, factor=height_px / self.source_height)

    def with_width_mm(self, width_mm: float) -> Size:
        """The size whose print is ``width_mm`` wide at the present density.

        Parameters
        ----------
        width_mm : width of the print, in millimetres
        """
        return self.with_width_px(width_mm / MM_PER_INCH * self.density_ppi)

    def with_height_mm(self, height_mm: float) -> Size:
        """The size whose print is ``height_mm`` high at the present density.

        Parameters
        ----------
        height_mm : height of the print, in millimetres
        """
        return self.with_height_px(height_mm / MM_PER_INCH * self.density_ppi)

    def with_density(self, density_ppi: float) -> Size:
        """The same pixels printed at another density.

        Parameters
        ----------
        density_ppi : 10 to 4800 pixels per inch
        """
        return replace(self, density_ppi=density_ppi)


def output_pixels(source_width: int, source_height: int, factor: float) -> tuple[int, int]:
    """Size after enlarging, rounded half up.

    Examples
    --------
    >>> output_pixels(1001, 667, 2.5)
    (2503, 1668)

    Parameters
    ----------
    source_width : columns of the source
    source_height : rows of the source
    factor : enlargement, 0.25 to 8

    Returns
    -------
    Columns and rows, at least 1.
    """
    width = max(1, math.floor(source_width * factor + 0.5))
    height = max(1, math.floor(source_height * factor + 0.5))
    return width, height


def fit_into_mm(size: Size, width_mm: float, height_mm: float) -> Size:
    """The largest size whose print at the present density fits into a rectangle.

    Parameters
    ----------
    size : size of the result
    width_mm : width of the rectangle, in millimetres
    height_mm : height of the rectangle, in millimetres

    Returns
    -------
    With its factor changed.
    """
    by_width, by_height = width_mm / size.source_width, height_mm / size.source_height
    return size.with_width_mm(width_mm) if by_width <= by_height else size.with_height_mm(height_mm)


def sharp_distance_mm(density_ppi: float) -> float:
    """Distance from which single pixels are no longer resolved.

    One pixel then subtends one arc minute, the acuity of normal (20/20) vision in the
    definition of Snellen (1862): distance = pixel pitch / tan(1/60 degree).

    Parameters
    ----------
    density_ppi : pixels per inch of the print

    Returns
    -------
    Millimetres.
    """
    return MM_PER_INCH / density_ppi / math.tan(math.radians(1 / 60))
