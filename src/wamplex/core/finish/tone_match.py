"""Computes a tone curve and a colour matrix that match a picture to a reference."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from wamplex.core.colour.convert import to_srgb
from wamplex.core.colour.lab import srgb_to_lab32
from wamplex.core.model.finish_values import Tone
from wamplex.core.model.picture import Picture

_KNOTS = 33
_MOST_PIXELS = 400_000
_QUANTILES = np.linspace(0.002, 0.998, 250)
_Matrix = NDArray[np.float64]
# Variance of a* and b* below which a picture counts as colourless: then only its mean is moved.
_LEAST_VARIANCE = 0.25
_MOST_GAIN = 4.0


def match_tone(picture: Picture, reference: Picture, *, colour: bool, text: str = "") -> Tone:
    """Match tone, and optionally colour, to a reference picture.

    The curve brings the quantiles of L* together. Colour follows the linear Monge-Kantorovich map of a* and
    b* (Pitié and Kokaram 2007, equation 13), the one that moves colours least; means and spreads alone would
    be those of Reinhard et al. (2001).

    Parameters
    ----------
    text : what the reference is called

    Returns
    -------
    A tone that needs the reference no longer.
    """
    own, target = _sample(picture), _sample(reference)
    curve = _curve(own[:, 0], target[:, 0])
    if not colour:
        return Tone(curve=curve, reference=text)
    matrix, shift = _colour_map(own[:, 1:], target[:, 1:])
    flat = tuple(float(value) for value in matrix.ravel())
    return Tone(
        curve=curve,
        matrix=(flat[0], flat[1], flat[2], flat[3]),
        shift=(float(shift[0]), float(shift[1])),
        reference=text,
    )


def _sample(picture: Picture) -> _Matrix:
    """L*, a*, b* of pixels spread evenly over a picture; what is transparent does not count."""
    pixels = to_srgb(picture.pixels, picture)
    colours = np.repeat(pixels[..., :1], 3, axis=2) if pixels.shape[2] < 3 else pixels[..., :3]
    step = max(1, int(np.sqrt(picture.width * picture.height / _MOST_PIXELS)))
    some = colours[::step, ::step].reshape(-1, 3)
    if picture.alpha is not None:
        opaque = picture.alpha[::step, ::step].ravel() > 0.5
        some = some[opaque] if opaque.any() else some
    return srgb_to_lab32(some).astype(np.float64)


def _curve(own: _Matrix, target: _Matrix) -> tuple[float, ...]:
    before, after = np.quantile(own, _QUANTILES), np.quantile(target, _QUANTILES)
    # Where many pixels share a tone, their quantiles are its mean place.
    tones, first = np.unique(np.round(before, 3), return_inverse=True)
    bin_means = np.bincount(first, weights=after) / np.bincount(first)
    knots = np.linspace(0, 100, _KNOTS)
    curve = np.interp(knots, tones, bin_means)
    # Beyond the tones there are, the distance is carried on, faded out to black and white.
    low, high = knots < tones[0], knots > tones[-1]
    curve[low] = bin_means[0] * knots[low] / max(tones[0], 1e-6)
    curve[high] = 100 - (100 - bin_means[-1]) * (100 - knots[high]) / max(100 - tones[-1], 1e-6)
    curve = np.maximum.accumulate(np.clip(curve, 0, 100))
    return tuple(float(value) for value in curve)


def _colour_map(own: _Matrix, target: _Matrix) -> tuple[_Matrix, _Matrix]:
    own_covariance, target_covariance = np.cov(own.T), np.cov(target.T)
    matrix = np.eye(2)
    if min(np.linalg.eigvalsh(own_covariance)[0], np.linalg.eigvalsh(target_covariance)[0]) > _LEAST_VARIANCE:
        root = _root(own_covariance)
        back = np.linalg.inv(root)
        matrix = back @ _root(root @ target_covariance @ root) @ back
        matrix = matrix * min(1.0, _MOST_GAIN / float(np.linalg.norm(matrix, 2)))
    return matrix, target.mean(axis=0) - matrix @ own.mean(axis=0)


def _root(matrix: _Matrix) -> _Matrix:
    """Square root of a symmetric positive matrix."""
    values, vectors = np.linalg.eigh(matrix)
    return np.asarray((vectors * np.sqrt(np.maximum(values, 0))) @ vectors.T)
