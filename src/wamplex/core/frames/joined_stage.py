"""The joined picture as a stage: blocks of a fixed lattice, so that every window reads the same blocks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.frames.block import Frame, join_block
from wamplex.core.model.picture import Pixels
from wamplex.core.upscale.stages.stage import FollowingStage, Stage

# Sides of a block in source pixels by factor: about the screen's tiles of 256 pixels, which read one each.
_BLOCK_PX = {2: 128, 3: 96, 4: 64}
# Of source pixels round a block that are joined with it and thrown away: what lies beyond changes it by less than a
# twentieth of a level.
_HALO_PX = 16


@dataclass(frozen=True, eq=False)
class Frames:
    """The frames of a scene with what was fitted to them.

    Attributes
    ----------
    frames : the reference among them
    blur_px : standard deviation of the lens's blur, in pixels of the frames
    """

    frames: Sequence[Frame]
    blur_px: float


def block_px(factor: int) -> int:
    """Side of a block, in source pixels.

    Parameters
    ----------
    factor : enlargement
    """
    return _BLOCK_PX[factor]


class JoinedStage(FollowingStage):
    """The enlargement of the reference, brought to what all frames saw.

    Parameters
    ----------
    before : the reference's enlargement, in 0..1
    frames : all frames
    factor : of the enlargement
    width, height : of the reference
    """

    def __init__(self, before: Stage, frames: Frames, factor: int, width: int, height: int) -> None:
        self._before = before
        self._frames = frames
        self._factor = factor
        self._source = Window(0, 0, width, height)
        self.width, self.height = before.width, before.height

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels of the window."""
        side = block_px(self._factor) * self._factor
        out: Pixels | None = None
        for row in range(window.y // side, -(-window.bottom // side)):
            for column in range(window.x // side, -(-window.right // side)):
                block = Window(column * side, row * side, side, side).clipped(self.width, self.height)
                joined = self._block(block, progress)
                if out is None:
                    out = np.empty((window.height, window.width, joined.shape[2]), np.float32)
                _copy(joined, block, out, window)
        assert out is not None
        return out

    def _block(self, block: Window, progress: Progress) -> Pixels:
        """A block of the lattice, in 0..1."""
        factor = self._factor
        inner = Window(block.x // factor, block.y // factor, block.width // factor, block.height // factor)
        wide = inner.grown(_HALO_PX, self._source.width, self._source.height)
        large = wide.enlarged(factor)
        expected = self._before.render(large, progress) * np.float32(255)
        joined = join_block(expected, wide, self._frames.frames, factor, self._frames.blur_px, progress)
        y, x = block.y - large.y, block.x - large.x
        return joined[y : y + block.height, x : x + block.width] / np.float32(255)


def _copy(pixels: Pixels, place: Window, out: Pixels, window: Window) -> None:
    """The part of a block that lies in the window."""
    left, top = max(place.x, window.x), max(place.y, window.y)
    right, bottom = min(place.right, window.right), min(place.bottom, window.bottom)
    part = pixels[top - place.y : bottom - place.y, left - place.x : right - place.x]
    out[top - window.y : bottom - window.y, left - window.x : right - window.x] = part
