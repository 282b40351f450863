"""Where a frame's pixels lie in the reference: a plane motion of the camera."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Homography = NDArray[np.float64]  # (3, 3), pixel centres at whole numbers
Coordinates = NDArray[np.float64]


def translation(x: float, y: float) -> Homography:
    """A shift.

    Parameters
    ----------
    x, y : in pixels

    Returns
    -------
    (3, 3) float64.
    """
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y], [0.0, 0.0, 1.0]])


def scaled(motion: Homography, by: float) -> Homography:
    """The same motion between pictures whose sides are ``by`` times as long.

    Parameters
    ----------
    motion : (3, 3)
    by : factor of the sides

    Returns
    -------
    (3, 3) float64, normalised so that its last entry is 1.
    """
    # The centre of pixel i lies at i + 1/2 of the continuous picture.
    into = np.array([[by, 0.0, (by - 1) / 2], [0.0, by, (by - 1) / 2], [0.0, 0.0, 1.0]])
    moved = into @ motion @ np.linalg.inv(into)
    return normalised(moved)


def move(motion: Homography, x: Coordinates, y: Coordinates) -> tuple[Coordinates, Coordinates]:
    """Map points.

    Parameters
    ----------
    motion : (3, 3)
    x, y : of any one shape, in pixels

    Returns
    -------
    The moved points, of the same shape.
    """
    depth = motion[2, 0] * x + motion[2, 1] * y + motion[2, 2]
    moved_x = (motion[0, 0] * x + motion[0, 1] * y + motion[0, 2]) / depth
    moved_y = (motion[1, 0] * x + motion[1, 1] * y + motion[1, 2]) / depth
    return moved_x, moved_y


def inverse(motion: Homography) -> Homography:
    """The motion back.

    Parameters
    ----------
    motion : (3, 3)

    Returns
    -------
    (3, 3) float64, normalised so that its last entry is 1.
    """
    return normalised(np.asarray(np.linalg.inv(motion), np.float64))


def normalised(motion: Homography) -> Homography:
    """The same motion with 1 as its last entry.

    Parameters
    ----------
    motion : (3, 3)
    """
    return np.asarray(motion / motion[2, 2], np.float64)
