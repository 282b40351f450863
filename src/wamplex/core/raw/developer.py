"""From balanced linear camera colours to finished tones, pixel by pixel."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.parallel_rows import parallel_blocks
from wamplex.core.colour.icc import SRGB, Space
from wamplex.core.model.development import Curve, Development, Highlights
from wamplex.core.model.picture import Pixels
from wamplex.core.model.raw_file import RawFile, Triple
from wamplex.core.raw.camera_colours import SPACES, gains_of, to_space
from wamplex.core.raw.tone_curve import seen

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
        """What a development comes to for a file."""
        gains = gains_of(raw, development)
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
            matrix=to_space(raw.colours, gains, development.space).astype(np.float32),
            highlights=development.highlights,
            curve=development.curve,
            space=SPACES[development.space],
        )

    def developed(self, camera: Pixels) -> Pixels:
        """Finished tones in 0..1, encoded, of camera colours balanced as shot: (h, w, 3) both."""
        out = np.empty(camera.shape, np.float32)

        def rows(some: slice) -> None:
            out[some] = self._developed(camera[some])

        parallel_blocks(len(camera), camera[:1].nbytes * _TEMPORARIES, rows, least_rows=1)
        return out

    def _developed(self, camera: Pixels) -> Pixels:
        levels = np.asarray(self.shot_gains, np.float32)
        whole = _HIGHLIGHTS[self.highlights](camera, levels) * self.correction
        linear: Pixels = np.matmul(whole, self.matrix.T, dtype=np.float32)
        if self.curve == "shoulder":
            linear = shouldered(linear)
        return encoded(np.clip(linear, 0.0, 1.0), self.space)


def cut_off(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """All channels end where the first of them does: lights become white, and nothing is made up."""
    made: Pixels = np.minimum(camera, levels.min())
    return made


def blended(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """What is lost by cutting off alike is given back to all channels in equal parts, so that it is grey."""
    cut = cut_off(camera, levels)
    made: Pixels = cut + (camera - cut).mean(axis=-1, keepdims=True)
    return made


def rebuilt(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """A channel that is cut off takes over from those that are not, as if the light were grey."""
    share = np.clip((camera / levels - _NEARLY) / (1 - _NEARLY), 0, 1)
    whole = (1 - share).sum(axis=-1, keepdims=True)
    others = ((1 - share) * camera).sum(axis=-1, keepdims=True) / np.maximum(whole, 1e-3)
    # Where all are cut off, it is as bright as the one that is cut off last.
    others = np.where(whole < 1e-3, levels.max(), others)
    made: Pixels = camera + share * np.maximum(others - camera, 0)
    return made


def kept(camera: Pixels, levels: NDArray[np.float32]) -> Pixels:
    """Each channel as far as it goes."""
    return camera


_HIGHLIGHTS = {"clip": cut_off, "blend": blended, "rebuild": rebuilt, "keep": kept}


def shouldered(linear: Pixels) -> Pixels:
    """Lights above 0.7 nearing white in an exponential, with the same slope where it begins."""
    over = np.maximum(linear - _KNEE, 0)
    made: Pixels = np.where(
        linear <= _KNEE, linear, _KNEE + (1 - _KNEE) * (1 - np.exp(-over / (1 - _KNEE)))
    ).astype(np.float32)
    return made


def encoded(linear: Pixels, space: Space) -> Pixels:
    """Linear light in 0..1 with the tone curve of a space."""
    if space.gamma is None:
        return seen(linear)
    return np.power(linear, np.float32(1 / space.gamma))
