"""From balanced linear camera colours to finished tones, pixel by pixel."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.parallel_rows import run_parallel_blocks
from wamplex.core.colour.icc import SRGB, Space
from wamplex.core.model.development import Curve, Development, Highlights
from wamplex.core.model.picture import Pixels
from wamplex.core.model.raw_file import RawFile, Triple
from wamplex.core.raw.camera_colours import SPACES, camera_to_working_space, white_balance_gains
from wamplex.core.raw.tone_curve import srgb_encode

# Below its level by so much, a channel begins to count as cut off: noise and demosaicking blur the level.
_NEARLY = 0.95
# Arrays of a block that are held at a time, so that all stay in the cache.
_TEMPORARIES = 6
# Where lights begin to be pressed together.
_KNEE = 0.7


@dataclass(frozen=True, eq=False)
class Developer:
    """Everything that developing a file comes to, as numbers.

    Attributes
    ----------
    shot_gains : the balance that the colours come with
    correction : to the balance that is wanted, and the exposure
    matrix : (3, 3) to the working space
    """

    shot_gains: Triple
    correction: NDArray[np.float32]
    matrix: NDArray[np.float32]
    highlights: Highlights | Literal["keep"]
    curve: Curve
    space: Space

    @staticmethod
    def of(raw: RawFile, development: Development) -> Developer:
        """Resolve a development for a file."""
        gains = white_balance_gains(raw, development)
        if development.linear:
            # White of the strongest channel comes to full scale, so that nothing is cut off.
            scaled = np.asarray(gains) / np.asarray(raw.gains) / max(gains)
            return Developer(
                raw.gains, scaled.astype(np.float32), np.eye(3, dtype=np.float32), "keep", "straight", SRGB
            )
        correction = np.asarray(gains) / np.asarray(raw.gains) * 2.0**development.exposure_ev
        return Developer(
            shot_gains=raw.gains,
            correction=correction.astype(np.float32),
            matrix=camera_to_working_space(raw.colours, gains, development.space).astype(np.float32),
            highlights=development.highlights,
            curve=development.curve,
            space=SPACES[development.space],
        )

    def developed(self, camera: Pixels) -> Pixels:
        """Finished tones in 0..1, encoded, of camera colours balanced as shot: (h, w, 3) both."""
        out = np.empty(camera.shape, np.float32)

        def rows(some: slice) -> None:
            out[some] = self._developed(camera[some])

        run_parallel_blocks(len(camera), camera[:1].nbytes * _TEMPORARIES, rows, min_rows=1)
        return out

    def _developed(self, camera: Pixels) -> Pixels:
        levels = np.asarray(self.shot_gains, np.float32)
        balanced = _HIGHLIGHTS[self.highlights](camera, levels) * self.correction
        linear: Pixels = np.matmul(balanced, self.matrix.T, dtype=np.float32)
        if self.curve == "shoulder":
            linear = roll_off_highlights(linear)
        return encode_tones(np.clip(linear, 0.0, 1.0), self.space)


def clip_highlights(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """All channels end where the first of them does: lights become white, and nothing is made up."""
    result: Pixels = np.minimum(camera, levels.min())
    return result


def blend_highlights(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """The brightness lost by clipping is added to all channels equally, which keeps it grey."""
    cut = clip_highlights(camera, levels)
    result: Pixels = cut + (camera - cut).mean(axis=-1, keepdims=True)
    return result


def reconstruct_highlights(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """A channel that is cut off takes over from those that are not, as if the light were grey."""
    weight = np.clip((camera / levels - _NEARLY) / (1 - _NEARLY), 0, 1)
    weight_sum = (1 - weight).sum(axis=-1, keepdims=True)
    others = ((1 - weight) * camera).sum(axis=-1, keepdims=True) / np.maximum(weight_sum, 1e-3)
    # Where all are cut off, it is as bright as the one that is cut off last.
    others = np.where(weight_sum < 1e-3, levels.max(), others)
    result: Pixels = camera + weight * np.maximum(others - camera, 0)
    return result


def keep_highlights(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """Each channel as far as it goes."""
    return camera


_HIGHLIGHTS = {
    "clip": clip_highlights,
    "blend": blend_highlights,
    "rebuild": reconstruct_highlights,
    "keep": keep_highlights,
}


def roll_off_highlights(linear: Pixels) -> Pixels:
    """Lights above 0.7 nearing white in an exponential, with the same slope where it begins."""
    over = np.maximum(linear - _KNEE, 0)
    result: Pixels = np.where(linear <= _KNEE, linear, _KNEE + (1 - _KNEE) * (1 - np.exp(-over / (1 - _KNEE)))).astype(
        np.float32
    )
    return result


def encode_tones(linear: Pixels, space: Space) -> Pixels:
    """Linear light in 0..1 with the tone curve of a space."""
    if space.gamma is None:
        return srgb_encode(linear)
    return np.power(linear, np.float32(1 / space.gamma))
