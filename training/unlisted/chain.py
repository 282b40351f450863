"""Draws a chain of steps by chance and applies it: high-order degradation.

As published by Wang et al. 2021 (steps repeated where pictures have been twice) and Zhang et al. 2021 (steps in
shuffled order). A chain is drawn from its seed alone, so the seed is all that must be written down.
"""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from training.unlisted.codecs import CODECS, jpeg, written
from training.unlisted.optics import OPTICS
from training.unlisted.screens import SCREENS
from training.unlisted.sensor_steps import SENSOR
from training.unlisted.step import Levels, Step

STEPS: dict[str, Step] = {step.kind: step for step in (*OPTICS, *SENSOR, *CODECS, *SCREENS)}
# A fifth of the kinds, of every family, that nothing learns from: they stand for what nobody lists.
LEFT_OUT = ("disk blur", "thin focus", "film grain", "non-local means", "HEVC", "AVIF", "few levels")
_SHRINKS: dict[str, float] = {
    "area": 3.0,
    "bicubic": 3.0,
    "Lanczos": 2.0,
    "bilinear": 2.0,
    "bilinear, not antialiased": 1.0,
    "nearest": 0.7,
}
_LEFT_OUT_SHRINKS = ("nearest",)
# Share of the pictures with a first life at a larger size, and of the shrinks that are made in linear light.
_TWICE, _LINEAR = 0.45, 0.2
# How often a picture has no step at all but its shrink.
_CLEAN = 0.10
# How often what has not just been saved is kept as a fine JPEG; else as a PNG.
_KEPT_AS_JPEG = 0.4


@dataclass(frozen=True)
class Chain:
    """What happened to a picture, in order.

    Attributes
    ----------
    seed : draws the same chain again
    steps : kind and what was drawn, such as "JPEG 4:2:0 (quality 61, 4:2:0)"
    kinds : of the steps alone
    suffix : of the file
    """

    seed: int
    steps: tuple[str, ...]
    kinds: tuple[str, ...]
    suffix: str


def degrade(truth: np.ndarray, side: tuple[int, int], seed: int, *, unlisted: bool = False) -> tuple[bytes, Chain]:
    """The file of a small picture with a history by chance.

    Parameters
    ----------
    truth : (H, W, 3) uint8
    side : columns and rows of the small picture
    seed : of the chain
    unlisted : whether the chain has at least one step of the kinds that are left out of training; else none

    Returns
    -------
    The file, and what was done.
    """
    random = np.random.default_rng(seed)
    before, after = _drawn_kinds(random, unlisted)
    record: list[tuple[str, str]] = []
    levels = truth.astype(np.float32)
    if before:
        between = float(random.uniform(1.0, min(2.5, truth.shape[1] / side[0])))
        levels = _resized(levels, (round(side[0] * between), round(side[1] * between)), unlisted, random, record)
        levels = _apply(levels, before, random, record)
    levels = _resized(levels, side, unlisted, random, record)
    file, suffix = _saved(levels, after, random, record)
    steps = tuple(f"{kind} ({detail})" for kind, detail in record)
    return file, Chain(seed, steps, tuple(kind for kind, _ in record), suffix)


def _saved(
    levels: Levels, kinds: list[str], random: np.random.Generator, record: list[tuple[str, str]]
) -> tuple[bytes, str]:
    """The last steps, and the file: of the last step where that is a save."""
    encode = STEPS[kinds[-1]].encode if kinds else None
    if encode is not None:
        levels = _apply(levels, kinds[:-1], random, record)
        file, detail = encode(levels, random)
        record.append((kinds[-1], detail))
        return file, {"WebP": "webp", "AVIF": "avif"}.get(kinds[-1], "jpg")
    levels = _apply(levels, kinds, random, record)
    if random.random() < _KEPT_AS_JPEG:
        file, detail = jpeg(int(random.choice((0, 2))), 80, 98)(levels, random)
        record.append(("kept as JPEG", detail))
        return file, "jpg"
    return written(levels, "PNG"), "png"


def _drawn_kinds(random: np.random.Generator, unlisted: bool) -> tuple[list[str], list[str]]:
    """Kinds of the first life and of the second, two to six in all but for the clean ones."""
    if not unlisted and random.random() < _CLEAN:
        return [], []
    number = int(random.integers(1, 6))
    kinds = [k for k in STEPS if k not in LEFT_OUT]
    weights = np.array([STEPS[k].weight for k in kinds])
    drawn = list(random.choice(kinds, number, p=weights / weights.sum()))
    if unlisted:
        drawn[int(random.integers(number))] = str(random.choice(LEFT_OUT))
    first_life = int(random.integers(0, number)) if random.random() < _TWICE else 0
    return [str(k) for k in drawn[:first_life]], [str(k) for k in drawn[first_life:]]


def _apply(levels: Levels, kinds: list[str], random: np.random.Generator, record: list[tuple[str, str]]) -> Levels:
    for kind in kinds:
        levels, detail = STEPS[kind].apply(levels, random)
        levels = np.clip(levels, 0, 255)
        record.append((kind, detail))
    return levels


def _resized(
    levels: Levels,
    side: tuple[int, int],
    unlisted: bool,
    random: np.random.Generator,
    record: list[tuple[str, str]],
) -> Levels:
    ways = [w for w in _SHRINKS if unlisted or w not in _LEFT_OUT_SHRINKS]
    weights = np.array([_SHRINKS[w] for w in ways])
    way = str(random.choice(ways, p=weights / weights.sum()))
    linear = bool(random.random() < _LINEAR)
    if (levels.shape[1], levels.shape[0]) == side:
        return levels
    record.append(("shrunk", f"{way}{', linear light' if linear else ''} to {side[0]} px"))
    if linear:
        levels = (np.clip(levels, 0, 255) / np.float32(255)) ** np.float32(2.2)
    levels = shrink(levels, side, way)
    if linear:
        levels = np.clip(levels, 0, 1) ** np.float32(1 / 2.2) * np.float32(255)
    return np.asarray(levels, np.float32)


def shrink(levels: Levels, side: tuple[int, int], way: str) -> Levels:
    """Levels at another size; the antialiased kernels are Pillow's."""
    plain = {"nearest": cv2.INTER_NEAREST, "bilinear, not antialiased": cv2.INTER_LINEAR, "area": cv2.INTER_AREA}
    if way in plain:
        return np.asarray(cv2.resize(levels, side, interpolation=plain[way]))
    kernel = {
        "bicubic": Image.Resampling.BICUBIC,
        "Lanczos": Image.Resampling.LANCZOS,
        "bilinear": Image.Resampling.BILINEAR,
    }[way]
    bands = [np.asarray(Image.fromarray(levels[..., c]).resize(side, kernel)) for c in range(3)]
    return np.stack(bands, axis=-1)
