"""Estimates blur, sharpening, noise and content type with a small network.

What blur and sharpening did to a picture can only be told by what pictures usually look like; that is what
the network has learned. See ``models/reader.md``.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.degradation.features import LEAST_SIDE_PX, compute_features
from wamplex.core.analysis.measuring_network import small_network
from wamplex.core.model.picture import Pixels

ReadKind = Literal["photograph", "drawing", "lettering"]
# What the network says, and the scale it says it in: px, amounts of an unsharp mask, log(1 + levels).
QUANTITIES = ("blur", "sharpening", "amount", "noise", "colour_noise")
KINDS: tuple[ReadKind, ...] = ("photograph", "drawing", "lettering")
_NETWORK = "reader.onnx"
# The network has learned from pictures of up to this side; of larger ones some squares are read.
_SQUARE_PX = 420
_MOST_SQUARES = 4


@dataclass(frozen=True)
class Estimate:
    """A quantity, and how far off it may well be."""

    value: float
    uncertainty: float


def _no_features() -> NDArray[np.float32]:
    return np.zeros((0, 0), np.float32)


@dataclass(frozen=True)
class DegradationEstimate:
    """What the network reads from a picture.

    Attributes
    ----------
    blur : standard deviation in px of a Gaussian blur beyond a clean shrink's
    sharpening : amount of an unsharp mask of radius 0.8 px that does as much; 1 is 100 %
    amount : amount of the mask that was used, whatever its radius
    noise, colour_noise : standard deviations in 8-bit levels, before compression; of all noise, and of what
        each channel has of its own
    media : likelihood of each of `KINDS`, summing to 1
    features : (squares, 248) float32, the numbers that this was read from; none of an estimate that was not read
    """

    blur: Estimate
    sharpening: Estimate
    amount: Estimate
    noise: Estimate
    colour_noise: Estimate
    media: tuple[float, float, float]
    features: NDArray[np.float32] = field(default_factory=_no_features, compare=False, repr=False)


def estimate_degradation(pixels: Pixels, compression: float) -> DegradationEstimate | None:
    """Read a picture at its own scale; None where it is smaller than 48 pixels.

    Parameters
    ----------
    pixels : (H, W, 3) float32 in 0..1, encoded as in the file
    compression : known compression, 0 to 1: 1 less a hundredth of the JPEG quality

    Returns
    -------
    Softness in source pixels, sharpening as a share, noise in 8-bit levels, each with its doubt.
    """
    if min(pixels.shape[:2]) < LEAST_SIDE_PX:
        return None
    described = np.stack([compute_features(square, compression) for square in _squares(pixels)])
    (output,) = small_network(_NETWORK).run(None, {"traits": described})
    count = len(QUANTITIES)
    values, doubts = output[:, :count], np.exp(output[:, count : 2 * count])
    estimates = [_together(values[:, q], doubts[:, q]) for q in range(count)]
    blur, sharpening, amount = estimates[:3]
    noise, colour_noise = (_from_logarithm(estimate) for estimate in estimates[3:])
    votes = output[:, 2 * count :].mean(axis=0)
    likely = np.exp(votes - votes.max())
    photograph, drawing, lettering = (float(n) for n in likely / likely.sum())
    media = (photograph, drawing, lettering)
    return DegradationEstimate(blur, sharpening, amount, noise, colour_noise, media, described)


def _together(values: NDArray[np.float32], doubts: NDArray[np.float32]) -> Estimate:
    """The mean of what the squares say, those counting most that doubt least."""
    weights = 1 / doubts**2
    value = float((values * weights).sum() / weights.sum())
    return Estimate(max(value, 0.0), float(doubts.min()))


def _from_logarithm(estimate: Estimate) -> Estimate:
    return Estimate(float(np.expm1(estimate.value)), float((1 + estimate.value) * estimate.uncertainty))


def _squares(pixels: Pixels) -> list[Pixels]:
    """The picture, or the squares of it that have most detail."""
    height, width = pixels.shape[:2]
    rows, columns = _starts(height), _starts(width)
    squares = [pixels[y : y + _SQUARE_PX, x : x + _SQUARE_PX] for y in rows for x in columns]
    if len(squares) <= _MOST_SQUARES:
        return squares
    detail = [float(np.abs(np.diff(square[..., 1], axis=1)).mean()) for square in squares]
    return [squares[i] for i in np.argsort(detail)[::-1][:_MOST_SQUARES]]


def _starts(length: int) -> list[int]:
    beyond = max(length - _SQUARE_PX, 0)
    count = round(length / _SQUARE_PX)
    return [beyond // 2] if count < 2 else [int(n) for n in np.linspace(0, beyond, count)]
