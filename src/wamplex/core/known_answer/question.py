"""Makes the question of a known-answer test: a small picture whose large original is known."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import pyvips

from wamplex.core.base.errors import SizeError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.size import output_pixels
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.upscale.stages.kernels import BILINEAR, CATMULL_ROM, LANCZOS3, Kernel
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.stage import SourceStage

ShrinkKernel = Literal["bicubic", "lanczos", "area"]
# The triangle that antialiasing widens is what shrinking programs without a finer kernel use.
_KERNELS: dict[ShrinkKernel, Kernel] = {"bicubic": CATMULL_ROM, "lanczos": LANCZOS3, "area": BILINEAR}
LARGEST_TRUTH_PX = 2_400_000
_LEAST_SIDE_PX = 24


@dataclass(frozen=True)
class TestDamage:
    """What is done to the truth.

    Attributes
    ----------
    kernel : antialiased kernel it is shrunk with
    quality : JPEG quality it is saved with, None for not at all
    noise_levels : standard deviation of white noise that is added before that, in 8-bit levels
    """

    kernel: ShrinkKernel = "bicubic"
    quality: int | None = None
    noise_levels: float = 0.0

    @property
    def text(self) -> str:
        """For the user."""
        parts = [f"shrunk with the {self.kernel} kernel"]
        if self.noise_levels > 0:
            parts.append(f"noise of {self.noise_levels:g} levels added")
        if self.quality is not None:
            parts.append(f"saved as JPEG of quality {self.quality}")
        return ", ".join(parts)


@dataclass(frozen=True)
class Question:
    """A small picture and the truth it was made from, which its enlargement has the very size of.

    Attributes
    ----------
    part : the pixels of the whole picture that the truth is
    text : what was done, for the user
    shrunk : whether the small picture was made of the truth; else both are files
    """

    small: Picture
    truth: Picture
    factor: float
    part: Window
    text: str
    shrunk: bool = True


def make_question(picture: Picture, factor: float, damage: TestDamage | None = None) -> Question:
    """Shrink the middle of a picture, at most 2.4 megapixels of it.

    Parameters
    ----------
    picture : the decoded picture
    factor : enlargement, 0.25 to 8
    damage : kernel, noise and compression

    Returns
    -------
    The truth, what it was shrunk and damaged to, and what was done, in words.

    Raises
    ------
    SizeError : when the factor does not enlarge, or the picture is too small to be shrunk by it
    """
    damage = damage or TestDamage()
    if factor <= 1:
        raise SizeError("A known-answer test needs a factor above 1.")
    part = _centre(picture.width, picture.height)
    small_size = int(part.width / factor), int(part.height / factor)
    if min(small_size) < _LEAST_SIDE_PX:
        raise SizeError(
            f"Shrunk {factor:g} times, {picture.width} × {picture.height} px is too small for a known-answer "
            f"test; {_LEAST_SIDE_PX} px a side must be left. Choose a smaller factor."
        )
    width, height = output_pixels(*small_size, factor)
    part = Window(part.x, part.y, min(width, part.width), min(height, part.height))
    cut = (slice(part.y, part.bottom), slice(part.x, part.right))
    truth = replace(picture, pixels=picture.pixels[cut], alpha=None, source=None)
    stage = ResampleStage(SourceStage(truth), *small_size, _KERNELS[damage.kernel])
    pixels = np.clip(stage.render(Window(0, 0, *small_size), Progress()), 0, 1)
    small = replace(truth, pixels=_damaged(pixels, damage, picture.depth))
    is_full = part.width * part.height == picture.width * picture.height
    where = "the whole picture" if is_full else f"the middle {part.width} × {part.height} px"
    return Question(small, truth, factor, part, f"{where}, {damage.text}")


def _centre(width: int, height: int) -> Window:
    shrink = min(1.0, (LARGEST_TRUTH_PX / (width * height)) ** 0.5)
    part_width, part_height = int(width * shrink), int(height * shrink)
    return Window((width - part_width) // 2, (height - part_height) // 2, part_width, part_height)


def _damaged(pixels: Pixels, damage: TestDamage, depth: int) -> Pixels:
    if damage.noise_levels > 0:
        random = np.random.default_rng(7)  # the same noise for every trial and every time
        pixels = pixels + random.normal(0, damage.noise_levels / 255, pixels.shape).astype(np.float32)
    steps = np.float32(255 if depth == 8 or damage.quality is not None else 65535)
    samples = np.rint(np.clip(pixels, 0, 1) * steps)
    if damage.quality is not None:
        image = pyvips.Image.new_from_array(np.ascontiguousarray(samples.astype(np.uint8)))
        saved = image.jpegsave_buffer(Q=damage.quality)
        back = pyvips.Image.new_from_buffer(saved, "").numpy()
        samples = back.reshape(samples.shape).astype(np.float32)
    result: Pixels = (samples / steps).astype(np.float32)
    return result
