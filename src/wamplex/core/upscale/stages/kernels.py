"""The interpolation kernels, as functions of the distance in source pixels."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Kernel:
    """A symmetric interpolation kernel.

    Attributes
    ----------
    radius : distance in source pixels beyond which the kernel is 0
    weight : kernel value at each distance
    """

    radius: float
    weight: Callable[[Array], Array]


def _triangle(distance: Array) -> Array:
    return np.maximum(1.0 - np.abs(distance), 0.0)


def _cubic(b: float, c: float) -> Callable[[Array], Array]:
    """The two-parameter cubic family of Mitchell and Netravali (1988), equation 8."""

    def weight(distance: Array) -> Array:
        x = np.abs(distance)
        near = (12 - 9 * b - 6 * c) * x**3 + (-18 + 12 * b + 6 * c) * x**2 + (6 - 2 * b)
        far = (-b - 6 * c) * x**3 + (6 * b + 30 * c) * x**2 + (-12 * b - 48 * c) * x + (8 * b + 24 * c)
        return np.where(x < 1, near, np.where(x < 2, far, 0.0)) / 6

    return weight


def _lanczos3(distance: Array) -> Array:
    return np.where(np.abs(distance) < 3, np.sinc(distance) * np.sinc(distance / 3), 0.0)


BILINEAR = Kernel(1.0, _triangle)
# Keys (1981) with a = -1/2, which is B = 0, C = 1/2 of the family.
CATMULL_ROM = Kernel(2.0, _cubic(0.0, 0.5))
# Mitchell and Netravali's own recommendation.
MITCHELL = Kernel(2.0, _cubic(1 / 3, 1 / 3))
# Sinc windowed by its own stretched main lobe (Duchon 1979).
LANCZOS3 = Kernel(3.0, _lanczos3)


@lru_cache(maxsize=8)
def without_antialiasing(kernel: Kernel, by: float) -> Kernel:
    """A kernel that stays as narrow as it is while shrinking by ``by``, where `ResampleStage` would widen it.

    For pictures without detail beyond the smaller size's limit, as those are that had been enlarged: by the
    sampling theorem they lose nothing then. A doubled photograph came back with a tenth of the error.
    """
    return Kernel(kernel.radius / by, lambda distance: kernel.weight(distance * by))
