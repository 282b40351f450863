"""Further frames of the scene of a picture, and how they lie over it."""

from __future__ import annotations

from pydantic import Field

from wamplex.core.base.frozen_model import FrozenModel

MAX_FRAMES = 31


class FrameRef(FrozenModel):
    """One further frame.

    Attributes
    ----------
    file : its path, relative to the folder of the reference
    digest : SHA-256 of its bytes, in hexadecimal
    motion : 3 x 3 by rows, from pixels of the reference to pixels of this frame, pixel centres at whole numbers
    gains, offsets : by channel, in levels of 255: the frame is the reference times the gain, plus the offset
    """

    file: str = Field(min_length=1, max_length=1000)
    digest: str = Field(pattern="^[0-9a-f]{64}$")
    motion: tuple[float, ...] = Field(min_length=9, max_length=9)
    gains: tuple[float, ...] = Field(min_length=1, max_length=3)
    offsets: tuple[float, ...] = Field(min_length=1, max_length=3)


class FrameSet(FrozenModel):
    """All that joining needs to know, fitted once.

    Attributes
    ----------
    frames : further frames; the picture itself is the reference
    blur_px : standard deviation of the lens's blur, in pixels of the frames
    deviation, colour_deviation : of the noise in luma and in colour differences, in levels of 255
    """

    frames: tuple[FrameRef, ...] = Field(min_length=1, max_length=MAX_FRAMES)
    blur_px: float = Field(ge=0.05, le=2.0)
    deviation: float = Field(gt=0, le=128)
    colour_deviation: float = Field(gt=0, le=128)
