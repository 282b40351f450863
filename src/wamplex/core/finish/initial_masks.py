"""Initial masks: grey pictures over the upright source, computed from it or read from a file."""

from __future__ import annotations

import math
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.faces.face import Face as DetectedFace
from wamplex.core.base.errors import RecipeError
from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb
from wamplex.core.colour.lab import srgb_to_lab32
from wamplex.core.colour.luma import luma_plane
from wamplex.core.finish.mask_stage import FacesStage
from wamplex.core.intake.read import read_picture
from wamplex.core.model.finish_values import TreatedFace
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe

_Plane = NDArray[np.float32]
# Variance of the luma that counts as an edge when a mask is refined.
_EDGE = 0.02**2
_SHAPE_TOLERANCE = 0.01
# Eyes lie halfway up a head. With its hair it is so many times as wide and high as the found box, which spans
# brow to chin, or as the pupils are apart (breadth and height of heads after Farkas 1994, from memory, and a
# margin for hair). The larger counts: in profile the eyes are hardly apart.
_OF_BOX, _OF_EYES = (1.25, 1.5), (2.8, 4.0)
_BELOW_EYES = 0.05  # of its height


def mask_from_areas(picture: Picture, area: _Plane) -> Pixels:
    """A coarse mask (h, w) of the whole picture, its edge refined along the picture's own edges.

    By the guided filter (He, Sun and Tang 2013) with the picture's luma as the guide.

    Parameters
    ----------
    picture : the decoded picture
    area : "subject" or "sharp"

    Returns
    -------
    (H, W) float32 in 0..1 at the picture's size.
    """
    luma = luma_plane(to_srgb(picture.pixels, picture))
    size = (picture.width, picture.height)
    rough = cv2.resize(area.astype(np.float32), size, interpolation=cv2.INTER_LINEAR)
    radius = max(4, math.ceil(picture.width / area.shape[1]))  # as far as the coarse mask may be off
    return np.clip(guided_filter(luma, rough, radius, _EDGE), 0, 1)


def guided_filter(guide: _Plane, mask: _Plane, radius: int, edge: float) -> _Plane:
    """Guided filter (He, Sun and Tang 2013, equations 5 to 8).

    Parameters
    ----------
    radius : radius of the windows in pixels
    guide : (H, W) float32 in 0..1, whose edges count
    mask : (H, W) float32 in 0..1
    edge : variance of the guide that counts as an edge

    Returns
    -------
    (H, W) float32: ``mask`` with the edges of ``guide``.
    """

    def mean(plane: NDArray[Any]) -> _Plane:
        side = (2 * radius + 1, 2 * radius + 1)
        return np.asarray(cv2.blur(np.asarray(plane, np.float32), side), np.float32)

    of_guide, of_mask = mean(guide), mean(mask)
    variance = mean(guide * guide) - of_guide * of_guide
    slope = (mean(guide * mask) - of_guide * of_mask) / (variance + np.float32(edge))
    return np.asarray(mean(slope) * guide + mean(of_mask - slope * of_guide), np.float32)


def mask_from_tones(picture: Picture, low: float, high: float, soft: float) -> Pixels:
    """A range of tones, in percent from black to white, fading out over ``soft`` percent.

    Parameters
    ----------
    picture : the decoded picture
    low : darkest lightness, 0 to 100 %
    high : lightest lightness, 0 to 100 %
    soft : falloff outside, in percent

    Returns
    -------
    (H, W) float32 in 0..1.
    """
    tone = srgb_to_lab32(_srgb(picture))[..., 0]
    up = np.clip((tone - low) / max(soft, 0.1) + 1, 0, 1)
    down = np.clip((high - tone) / max(soft, 0.1) + 1, 0, 1)
    return np.asarray(np.minimum(up, down), np.float32)


def mask_from_colour(picture: Picture, colour: tuple[float, float, float], radius: float) -> Pixels:
    """Colours near one in CIELAB (CIE 1976): whole up to half of the reach, fading out to it.

    Parameters
    ----------
    picture : the decoded picture
    colour : a, b and L of CIELAB
    radius : tolerance in CIELAB units

    Returns
    -------
    (H, W) float32 in 0..1.
    """
    away = np.linalg.norm(srgb_to_lab32(_srgb(picture)) - np.asarray(colour, np.float32), axis=-1)
    return np.asarray(np.clip(2 * (1 - away / radius), 0, 1), np.float32)


def pick_colour(picture: Picture, x: float, y: float, side: int = 5) -> tuple[float, float, float]:
    """Mean colour of a few pixels.

    Parameters
    ----------
    picture : the decoded picture
    x : column as a fraction of the width
    y : row as a fraction of the height
    side : side of the averaged square, in pixels

    Returns
    -------
    L*, a* and b* of CIELAB.
    """
    top, left = max(0, round(y) - side // 2), max(0, round(x) - side // 2)
    lab = srgb_to_lab32(_srgb(picture)[top : top + side, left : left + side]).mean(axis=(0, 1))
    return float(lab[0]), float(lab[1]), float(lab[2])


def mask_from_file(path: Path, picture: Picture) -> Pixels:
    """A grey picture from a file: white where the mask is whole.

    Parameters
    ----------
    path : a grey picture of the same proportions
    picture : the decoded picture

    Returns
    -------
    (h, w) float32 in 0..1, of the picture's shape, not necessarily of its size.

    Raises
    ------
    UnreadablePictureError : when it is no picture
    RecipeError : when it has another shape than the picture
    """
    mask = read_picture(path)
    ratio = (mask.width / mask.height) / (picture.width / picture.height)
    if abs(math.log(ratio)) > _SHAPE_TOLERANCE:
        raise RecipeError(
            f"{path.name} has {mask.width} × {mask.height} px, which is another shape than the picture's "
            f"{picture.width} × {picture.height} px. Make the mask from the whole, uncropped picture."
        )
    return luma_plane(mask.pixels)


def mask_from_faces(picture: Picture, faces: tuple[TreatedFace, ...]) -> Pixels:
    """Soft ovals over all faces, hair line included.

    Parameters
    ----------
    picture : the decoded picture
    faces : ellipses

    Returns
    -------
    (H, W) float32 in 0..1.
    """
    stage = FacesStage(picture, Recipe(factor=1.0), faces, (1.0,) * len(faces))
    return stage.render(Window(0, 0, picture.width, picture.height), Progress())[..., 0]


def face_ellipses(faces: tuple[DetectedFace, ...], width: int, height: int) -> tuple[TreatedFace, ...]:
    """Ellipses around detected faces; small and uncertain ones are switched off.

    Parameters
    ----------
    faces : detected faces
    width : columns of the picture
    height : rows of the picture

    Returns
    -------
    Ellipses, with centres as fractions of width and height.
    """
    ellipses = []
    for face in faces:
        (left_x, left_y), (right_x, right_y) = face.eyes
        tilt = math.degrees(math.atan2(right_y - left_y, right_x - left_x))
        eye_distance = math.hypot(right_x - left_x, right_y - left_y)
        across = max(_OF_BOX[0] * face.width, _OF_EYES[0] * eye_distance)
        high = max(_OF_BOX[1] * face.height, _OF_EYES[1] * eye_distance)
        # Between the eyes and the middle of the box, which lies where the head turns to.
        x = (left_x + right_x + 2 * (face.x + face.width / 2)) / 4
        y = (left_y + right_y) / 2
        down = _BELOW_EYES * high
        x, y = x - down * math.sin(math.radians(tilt)), y + down * math.cos(math.radians(tilt))
        ellipse = TreatedFace(x=x / width, y=y / height, width=across, height=high, angle_deg=tilt, on=face.selected)
        ellipses.append(ellipse)
    return tuple(ellipses)


def _srgb(picture: Picture) -> Pixels:
    pixels = to_srgb(picture.pixels, picture)
    return np.repeat(pixels[..., :1], 3, axis=2) if pixels.shape[2] < 3 else pixels[..., :3]
