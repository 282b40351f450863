"""Masks as stages: what they begin with, strokes, feather and inverting, exact in every window."""

from __future__ import annotations

import math

import numpy as np

from wamplex.core.base.lazy_imports import cv2
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.finish.grey_mask import decode_grey
from wamplex.core.finish.strokes import Stroke, decode_points, draw_stroke
from wamplex.core.geometry.framing import framed_placement
from wamplex.core.geometry.placement import Placement
from wamplex.core.geometry.size import LEAST_FACTOR
from wamplex.core.model.assets import Assets
from wamplex.core.model.finish_values import Mask, TreatedFace
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.trial_stage import enlarged_stage
from wamplex.core.upscale.stages.kernels import BILINEAR
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import ChannelLayout, FollowingStage, Stage
from wamplex.core.upscale.upscalers.interpolation import BILINEAR_UPSCALER

# A softened mask holds nothing finer than this many of its pixels; it is worked out on such a grid.
_SIGMA_PX = 8.0
_REACH_SIGMAS = 3


def mask_stage(picture: Picture, recipe: Recipe, mask: Mask, assets: Assets) -> Stage:
    """A mask of a picture at the recipe's size, as a stage of one channel in 0..1.

    Raises
    ------
    ProjectError, RecipeError : when a part of it is missing or damaged
    """
    size = recipe.size(picture.width, picture.height)
    factor = recipe.factor
    if mask.feather_px > 0:
        factor = max(LEAST_FACTOR, min(factor, _SIGMA_PX / mask.feather_px))
    on_grid = recipe.replace(factor=factor)
    grid = on_grid.size(picture.width, picture.height)
    stage: Stage = _Flat(mask.initial_mask.kind != "nowhere", grid.width_px, grid.height_px)
    if mask.initial_mask.picture is not None:
        grey = decode_grey(assets.get(mask.initial_mask.picture), picture.width, picture.height)
        stage = enlarged_stage(Picture(grey), on_grid, BILINEAR_UPSCALER, Values())
    strokes = () if mask.strokes is None else decode_points(assets.get(mask.strokes))
    stage = _Painted(stage, strokes, source_to_result(picture.width, picture.height, on_grid), inverted=mask.inverted)
    if mask.feather_px > 0:
        stage = _Feathered(stage, mask.feather_px * factor)
    if (stage.width, stage.height) != (size.width_px, size.height_px):
        stage = ResampleStage(stage, size.width_px, size.height_px, BILINEAR)
    return stage


def source_to_result(width: int, height: int, recipe: Recipe) -> Placement:
    """Placement of an upright source of this size in the result."""
    crop = recipe.framing.window(width, height)
    size = recipe.size(width, height)
    scaled = Placement.scaling(size.width_px / crop.width, size.height_px / crop.height)
    return framed_placement(recipe.framing, width, height).then(scaled)


class FacesStage:
    """Soft ovals, the strongest at each place, times their strengths: a stage of one channel in 0..1.

    Parameters
    ----------
    strengths : of each face, 0..1
    """

    layout: ChannelLayout = "grey"
    origin = (0.0, 0.0)
    # The rim fades over this part of the radius to both sides.
    _SOFT = 0.22

    def __init__(
        self, picture: Picture, recipe: Recipe, faces: tuple[TreatedFace, ...], strengths: tuple[float, ...]
    ) -> None:
        size = recipe.size(picture.width, picture.height)
        self.width, self.height, self.scale = size.width_px, size.height_px, recipe.factor
        place = source_to_result(picture.width, picture.height, recipe)
        self._back = place.inverse
        self._boxes = [_box_of(face, picture, place, 1 + self._SOFT) for face in faces]
        self._faces = list(zip(faces, strengths, strict=True))
        self._source = (picture.width, picture.height)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The mask of the window."""
        progress.check()
        out = np.zeros((window.height, window.width, 1), np.float32)
        for (face, strength), box in zip(self._faces, self._boxes, strict=True):
            left, top = max(window.x, box.x), max(window.y, box.y)
            right, bottom = min(window.right, box.right), min(window.bottom, box.bottom)
            if right <= left or bottom <= top:
                continue
            part = out[top - window.y : bottom - window.y, left - window.x : right - window.x, 0]
            ellipse = self._ellipse(face, Window(left, top, right - left, bottom - top)) * np.float32(strength)
            np.maximum(part, ellipse, out=part)
        return out

    def _ellipse(self, face: TreatedFace, part: Window) -> Pixels:
        columns = np.arange(part.x, part.right, dtype=np.float64) + 0.5
        rows = (np.arange(part.y, part.bottom, dtype=np.float64) + 0.5)[:, None]
        x, y = self._back.at(columns, rows)
        x, y = x - face.x * self._source[0], y - face.y * self._source[1]
        cos, sin = math.cos(math.radians(face.angle_deg)), math.sin(math.radians(face.angle_deg))
        across, down = (cos * x + sin * y) / (face.width / 2), (cos * y - sin * x) / (face.height / 2)
        inside = np.clip((1 + self._SOFT - np.hypot(across, down)) / (2 * self._SOFT), 0, 1)
        return np.asarray(inside * inside * (3 - 2 * inside), np.float32)


def _box_of(face: TreatedFace, picture: Picture, place: Placement, margin: float) -> Window:
    """Bounding box of an ellipse in the result."""
    x, y = place.at(face.x * picture.width, face.y * picture.height)
    radius = max(face.width, face.height) / 2 * margin * place.scale + 1
    left, top = math.floor(x - radius), math.floor(y - radius)
    return Window(left, top, math.ceil(x + radius) - left, math.ceil(y + radius) - top)


class _Flat:
    """The same everywhere."""

    layout: ChannelLayout = "grey"
    origin, scale = (0.0, 0.0), 1.0

    def __init__(self, full: bool, width: int, height: int) -> None:
        self.width, self.height = width, height
        self._value = np.float32(full)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The value."""
        return np.full((window.height, window.width, 1), self._value, np.float32)


class _Painted(FollowingStage):
    """Strokes drawn over what is there; then inverted where that is asked for."""

    def __init__(self, before: Stage, strokes: tuple[Stroke, ...], place: Placement, *, inverted: bool) -> None:
        self.width, self.height = before.width, before.height
        self._before, self._strokes, self._place, self._inverted = before, strokes, place, inverted

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The mask of the window."""
        mask = np.clip(self._before.render(window, progress), 0, 1)
        draw_stroke(mask[..., 0], window, self._strokes, self._place)
        return 1 - mask if self._inverted else mask


class _Feathered(FollowingStage):
    """Softened with a normal distribution; beyond the border its edge goes on."""

    def __init__(self, before: Stage, sigma: float) -> None:
        self.width, self.height = before.width, before.height
        self._before, self._sigma = before, sigma
        self._halo = math.ceil(_REACH_SIGMAS * sigma)

    def render(self, window: Window, progress: Progress) -> Pixels:
        """The mask of the window."""
        needed = window.grown(self._halo, self.width, self.height)
        mask = self._before.render(needed, progress)[..., 0]
        side = 2 * self._halo + 1
        soft = cv2.GaussianBlur(mask, (side, side), self._sigma, borderType=cv2.BORDER_REPLICATE)
        y, x = window.y - needed.y, window.x - needed.x
        part: Pixels = np.asarray(soft)[y : y + window.height, x : x + window.width, None]
        return np.clip(part, 0, 1)
