"""Paper sizes: ISO 216, common photographic sizes, and the user's own."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from wamplex.core.geometry.size import MM_PER_INCH

PaperGroup = Literal["ISO A", "ISO B", "photo, cm", "photo, inches", "own"]


@dataclass(frozen=True)
class Paper:
    """One sheet, upright: ``short_mm`` wide and ``long_mm`` high."""

    name: str
    short_mm: float
    long_mm: float
    group: PaperGroup

    @property
    def text(self) -> str:
        """Such as “A2 · 420 × 594 mm”."""
        return f"{self.name} · {self.short_mm:.4g} × {self.long_mm:.4g} mm"


def paper_named(name: str, own: Sequence[tuple[str, float, float]]) -> Paper | None:
    """Find a paper by its name.

    Parameters
    ----------
    name : such as "A4"
    own : the user's own papers

    Returns
    -------
    The paper, None where there is none.
    """
    mine = [Paper(title, short, long, "own") for title, short, long in own]
    return next((paper for paper in (*PAPERS, *mine) if paper.name == name), None)


def iso_paper(series: Literal["A", "B"], number: int) -> Paper:
    """A paper size of ISO 216, by the standard's rule.

    A0 has an area of one square metre and sides as 1 to the square root of 2; B sizes are the geometric means
    of neighbouring A sizes; each next size is the one before cut in half, rounded down to whole millimetres.

    Parameters
    ----------
    series : "A" or "B"
    number : 0 for the largest

    Returns
    -------
    The paper, with sides in whole millimetres.
    """
    exponent = 0.25 if series == "A" else 0.5
    # From metres to millimetres; the standard rounds 840.9 to 841 and 1414.2 to 1414.
    long, short = round(1000 * 2**exponent), round(1000 * 2 ** (exponent - 0.5))
    for _ in range(number):
        long, short = short, math.floor(long / 2)
    return Paper(f"{series}{number}", short, long, f"ISO {series}")  # type: ignore[arg-type]


def _inches(short: float, long: float) -> Paper:
    return Paper(f"{short:g} × {long:g} in", short * MM_PER_INCH, long * MM_PER_INCH, "photo, inches")


def _centimetres(short: float, long: float) -> Paper:
    return Paper(f"{short:g} × {long:g} cm", short * 10, long * 10, "photo, cm")


# The photographic sizes that paper and frames are sold in; common practice.
_CM = (
    (9, 13),
    (10, 15),
    (13, 18),
    (15, 20),
    (20, 30),
    (24, 30),
    (30, 40),
    (40, 50),
    (50, 70),
    (60, 90),
    (70, 100),
)
_IN = ((4, 6), (5, 7), (8, 10), (8, 12), (11, 14), (12, 18), (16, 20), (16, 24), (20, 24), (20, 30), (24, 36))

PAPERS: tuple[Paper, ...] = (
    *(iso_paper("A", n) for n in range(7)),
    *(iso_paper("B", n) for n in range(7)),
    *(_centimetres(*sides) for sides in _CM),
    *(_inches(*sides) for sides in _IN),
)
