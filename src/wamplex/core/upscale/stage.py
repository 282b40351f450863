"""A stage makes any window of an image of known size; upscalers are chains of stages.

Each stage asks the one before it for just the pixels (with the halo) that a window needs.
That is what makes every window equal to the same window of the whole.
"""

from __future__ import annotations

from typing import Protocol

import numpy as np

from wamplex.core.picture import Picture, Pixels
from wamplex.core.progress import Progress
from wamplex.core.window import Window


class Stage(Protocol):
    """One step of an enlargement."""

    @property
    def width(self) -> int:
        """Columns of the whole image this stage makes."""

    @property
    def height(self) -> int:
        """Rows of the whole image this stage makes."""

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Pixels (window.height, window.width, C) float32; may lie slightly outside 0..1."""


class SourceStage:
    """The picture itself; colour premultiplied by alpha, which comes last."""

    def __init__(self, picture: Picture) -> None:
        self._picture = picture
        self.width = picture.width
        self.height = picture.height

    def render(self, window: Window, progress: Progress) -> Pixels:
        """Source pixels of the window."""
        progress.check()
        part = (slice(window.y, window.bottom), slice(window.x, window.right))
        pixels = self._picture.pixels[part]
        if self._picture.alpha is None:
            return pixels
        alpha = self._picture.alpha[part][..., np.newaxis]
        return np.concatenate([pixels * alpha, alpha], axis=2)
