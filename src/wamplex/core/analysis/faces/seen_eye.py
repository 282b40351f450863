"""Which eye of a face is seen best: hair, hats and shadows may cover one."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.faces.face import Face
from wamplex.core.model.picture import Picture

# As shares of the distance between the eyes: the ring of skin around an eye, how far the nose lies below both, and the
# radius of the place there whose colour is the skin's.
_RING = (0.22, 0.42)
_NOSE_BELOW, _NOSE_RADIUS = 0.45, 0.12
_SKIN_REACH = 0.15  # how far colours of skin are apart, in 0..1
_CLEARLY = 0.2  # of the ring, how much more must be skin


def seen_eye(face: Face, picture: Picture) -> tuple[float, float]:
    """Choose the eye to look at; own definition.

    Parameters
    ----------
    face : with the middles of both eyes, in pixels of the picture
    picture : whole

    Returns
    -------
    (x, y) in pixels: the eye with clearly more skin around it, else the one nearer to the middle of the picture.
    """
    nearer, other = sorted(face.eyes, key=lambda eye: abs(eye[0] - picture.width / 2))
    skin = [_skin_fraction(picture, face, eye) for eye in (nearer, other)]
    return other if skin[1] > skin[0] + _CLEARLY else nearer


def _skin_fraction(picture: Picture, face: Face, eye: tuple[float, float]) -> float:
    """Of the ring around an eye, how much has the colour of the nose."""
    (ax, ay), (bx, by) = face.eyes
    across, down = bx - ax, by - ay
    distance = float(np.hypot(across, down))
    nose = ((ax + bx) / 2 - _NOSE_BELOW * down, (ay + by) / 2 + _NOSE_BELOW * across)
    middle = _ring(picture, nose, 0.0, _NOSE_RADIUS * distance)
    around = _ring(picture, eye, *(share * distance for share in _RING))
    if not len(middle) or not len(around):
        return 0.0
    distance_from_skin = np.linalg.norm(around - np.median(middle, axis=0), axis=1)
    return float((distance_from_skin < _SKIN_REACH).mean())


def _ring(picture: Picture, at: tuple[float, float], inner: float, outer: float) -> NDArray[np.float32]:
    """Colours between two radii, (N, C)."""
    left, top = max(int(at[0] - outer), 0), max(int(at[1] - outer), 0)
    part = picture.pixels[top : max(int(at[1] + outer) + 2, 0), left : max(int(at[0] + outer) + 2, 0)]
    rows, columns = np.ogrid[: part.shape[0], : part.shape[1]]
    radius = np.hypot(columns + left - at[0], rows + top - at[1])
    return part[(radius >= inner) & (radius <= outer)]
