"""Detects faces on tilted or lying heads, which the detectors alone miss."""

from __future__ import annotations

import math

import numpy as np

from wamplex.core.analysis.faces.detection import find_faces, is_same_face
from wamplex.core.analysis.faces.face import Face
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.geometry.placement import Placement

# By themselves the finders take heads tilted by up to some 60 degrees; with these, up to 120 and most upside
# down. Of 40 portraits of 24 pixels tilted by 90 degrees they find 17 and 40 (docs/condition.md).
_ANGLES = (-40, 40, -80, 80)
_GREY = 128


def find_turned_faces(pixels: Rgb8, progress: Progress | None = None) -> tuple[Face, ...]:
    """Faces however the head is tilted, the largest first; takes some ten times as long as `find_faces`.

    Parameters
    ----------
    pixels : (H, W, 3) uint8, sRGB

    Returns
    -------
    Boxes and eyes in pixels of the picture. A box keeps its own sides whatever the tilt, which the eyes tell:
    the first is the one on the left of the upright head.
    """
    progress = progress or Progress()
    faces = list(find_faces(pixels, progress, closer=True))
    for number, degrees in enumerate(_ANGLES):
        progress.report((number + 1) / (len(_ANGLES) + 1), "looking for tilted faces")
        progress.check()
        turned, back = _turned(pixels, degrees)
        for face in find_faces(turned, progress, closer=True):
            _add(faces, _shift(face, back))
    return tuple(sorted(faces, key=lambda face: (not face.sure, -face.width)))


def _add(faces: list[Face], face: Face) -> None:
    """Take a face in, in place of the same one seen less surely at another angle."""
    same = [other for other in faces if is_same_face(face, other)]
    if all((other.sure, other.verdict) < (face.sure, face.verdict) for other in same):
        faces[:] = [*(other for other in faces if other not in same), face]


def _turned(pixels: Rgb8, degrees: float) -> tuple[Rgb8, Placement]:
    """The picture rotated clockwise on a grey ground that holds all of it; and the way back."""
    height, width = pixels.shape[:2]
    cos, sin = abs(math.cos(math.radians(degrees))), abs(math.sin(math.radians(degrees)))
    wide, high = math.ceil(width * cos + height * sin), math.ceil(width * sin + height * cos)
    about_centre = Placement.translation(-width / 2, -height / 2).then(Placement.rotation(degrees, 0, 0))
    place = about_centre.then(Placement.translation(wide / 2, high / 2))
    matrix = np.array([[place.xx, place.xy, place.x0], [place.yx, place.yy, place.y0]])
    ground = (_GREY, _GREY, _GREY)
    rotated = cv2.warpAffine(pixels, matrix, (wide, high), flags=cv2.INTER_LINEAR, borderValue=ground)
    return rotated, place.inverse


def _shift(face: Face, place: Placement) -> Face:
    x, y = place.at(face.x + face.width / 2, face.y + face.height / 2)
    first, second = (place.at(*eye) for eye in face.eyes)
    corner = (x - face.width / 2, y - face.height / 2)
    return Face(*corner, face.width, face.height, face.verdict, (first, second), face.sure)
