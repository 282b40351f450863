"""Changes to a framing: turning, flipping, straightening, dragging the crop, which always stays inside."""

from __future__ import annotations

from typing import Literal

from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import (
    LEAST_CROP_PX,
    MOST_STRAIGHTENING_DEG,
    Crop,
    Framing,
    crop_is_inside,
    largest_inner_crop,
)

Handle = Literal["inside", "left", "right", "top", "bottom", "top-left", "top-right", "bottom-left", "bottom-right"]
_HALVINGS = 12


def rotate_quarter_turn(framing: Framing, width: int, height: int) -> Framing:
    """A quarter turn clockwise more; what was kept is kept."""
    _, high = framing.turned_size(width, height)
    old_crop = framing.crop
    crop = None
    if old_crop is not None:
        crop = Crop(x=high - old_crop.y - old_crop.height, y=old_crop.x, width=old_crop.height, height=old_crop.width)
    # A flip reverses the way the source turns.
    turns = (framing.turns + (3 if framing.flipped else 1)) % 4
    return framing.replace(turns=turns, crop=crop)


def mirror(framing: Framing, width: int, height: int) -> Framing:
    """Left and right exchanged; what was kept is kept."""
    wide, _ = framing.turned_size(width, height)
    old_crop = framing.crop
    crop = None if old_crop is None else old_crop.replace(x=wide - old_crop.x - old_crop.width)
    changes = {"flipped": not framing.flipped, "straighten_deg": -framing.straighten_deg, "crop": crop}
    return framing.replace(**changes)


def straighten(framing: Framing, width: int, height: int, degrees: float) -> Framing:
    """Rotated to another angle; a crop that no longer fits shrinks around its middle until it does."""
    degrees = min(max(degrees, -MOST_STRAIGHTENING_DEG), MOST_STRAIGHTENING_DEG)
    framing = framing.replace(straighten_deg=degrees)
    if framing.crop is None:
        return framing
    size = framing.turned_size(width, height)
    crop = framing.crop.window
    if not crop_is_inside(crop, *size, degrees):
        crop = _shrunk(crop, *size, degrees)
    return framing.replace(crop=_crop(crop))


def set_aspect_ratio(framing: Framing, width: int, height: int, ratio: float | None) -> Framing:
    """The largest crop of a ratio around the middle; None takes the crop off."""
    if ratio is None:
        return framing.replace(crop=None)
    size = framing.turned_size(width, height)
    return framing.replace(crop=_crop(largest_inner_crop(*size, framing.straighten_deg, ratio)))


def drag_crop(
    framing: Framing,
    width: int,
    height: int,
    handle: Handle,
    across_px: float,
    down_px: float,
    ratio: float | None = None,
) -> Framing:
    """The crop with one of its handles moved; as far as there is picture.

    Parameters
    ----------
    across_px, down_px : how far, in pixels of the picture
    ratio : width by height that is kept, None for any
    """
    start = framing.window(width, height)
    size = framing.turned_size(width, height)
    # The furthest step on the way there that still fits, found by halving.
    best, low, high = start, 0.0, 1.0
    for step in range(_HALVINGS):
        fraction = 1.0 if step == 0 else (low + high) / 2
        candidate = _move_crop(start, handle, across_px * fraction, down_px * fraction, ratio)
        large_enough = min(candidate.width, candidate.height) >= LEAST_CROP_PX
        if large_enough and crop_is_inside(candidate, *size, framing.straighten_deg):
            best, low = candidate, fraction
            if step == 0:
                break
        else:
            high = fraction
    return framing.replace(crop=_crop(best))


def _move_crop(start: Window, handle: Handle, across: float, down: float, ratio: float | None) -> Window:
    dx, dy = round(across), round(down)
    if handle == "inside":
        return Window(start.x + dx, start.y + dy, start.width, start.height)
    left, top, right, bottom = start.x, start.y, start.right, start.bottom
    if "left" in handle:
        left += dx
    if "right" in handle:
        right += dx
    if "top" in handle:
        top += dy
    if "bottom" in handle:
        bottom += dy
    if right - left < 1 or bottom - top < 1:
        return Window(start.x, start.y, 0, 0)
    moved_window = Window(left, top, right - left, bottom - top)
    return moved_window if ratio is None else _with_ratio(moved_window, handle, ratio)


def _with_ratio(window: Window, handle: Handle, ratio: float) -> Window:
    """The side that was not dragged follows; the opposite corner, or the middle of the side, stays."""
    if handle in ("top", "bottom"):
        width = max(1, round(window.height * ratio))
        return Window(window.x + (window.width - width) // 2, window.y, width, window.height)
    height = max(1, round(window.width / ratio))
    if handle in ("left", "right"):
        return Window(window.x, window.y + (window.height - height) // 2, window.width, height)
    y = window.bottom - height if "top" in handle else window.y
    return Window(window.x, y, window.width, height)


def _shrunk(crop: Window, width: int, height: int, degrees: float) -> Window:
    """The same middle and proportions, as large as fits; around the picture's middle if that fails."""
    low, high = 0.0, 1.0
    for _ in range(_HALVINGS):
        scale = (low + high) / 2
        if crop_is_inside(_scaled(crop, scale), width, height, degrees):
            low = scale
        else:
            high = scale
    fraction = _scaled(crop, low)
    if min(fraction.width, fraction.height) < LEAST_CROP_PX:
        return largest_inner_crop(width, height, degrees, crop.width / crop.height)
    return fraction


def _scaled(crop: Window, scale: float) -> Window:
    width, height = max(1, int(crop.width * scale)), max(1, int(crop.height * scale))
    return Window(crop.x + (crop.width - width) // 2, crop.y + (crop.height - height) // 2, width, height)


def _crop(window: Window) -> Crop:
    return Crop(x=window.x, y=window.y, width=window.width, height=window.height)
