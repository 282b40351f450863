"""Collects what each way to enlarge gains on pictures of random history, for the judge to learn from."""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np
from PIL import Image

from training.heldout import luma_psnr
from training.places import prepared_dir
from training.real import enlarged_by, written
from training.unlisted.chain import Chain, degrade
from training.unlisted.few_tones import few_tones_file
from training.unlisted.held_back import is_held_back
from training.unlisted.usual import usual_file
from wamplex.core.analysis.degradation.features import LEAST_SIDE_PX, compute_features
from wamplex.core.analysis.report.condition import UPSCALING_ROWS, measure_whole_condition
from wamplex.core.analysis.sample import Sample
from wamplex.core.analysis.suggestion.alternatives import alternatives
from wamplex.core.analysis.suggestion.judge_inputs import condition_numbers
from wamplex.core.analysis.suggestion.rules import suggest_by_rules
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler

_FACTORS = (2, 3, 4, 4)
_SIDES_PX = (80, 184)  # of the small picture
# How often each kind of history is drawn, and for each how often each collection.
_HISTORIES = {"by chance": 0.5, "usual": 0.35, "few tones": 0.15}
_SHARES = {"photographs": 0.6, "paintings": 0.1, "drawings": 0.17, "lettering": 0.13}
_FEW_TONES_SHARES = {"photographs": 0.25, "paintings": 0.0, "drawings": 0.35, "lettering": 0.4}
_SAVE_EVERY = 50
# Of a picture that is learned from only some of the ways are tried, so that there is time for more pictures.
_TRIED = 7


@dataclass(frozen=True)
class Judged:
    """One picture of known history.

    Attributes
    ----------
    numbers : what the judge is told of it, float32
    gains : luma PSNR over bicubic in dB of each alternative, then of what the rules suggest; not a number where
        it was not tried
    suggested : gain of what is suggested, without crispness; not a number where it was not tried
    chain : what was done to it
    factor : of the enlargement
    source : where the truth is from
    """

    numbers: np.ndarray
    gains: np.ndarray
    suggested: float
    chain: Chain
    factor: int
    source: str


def collect(work: Path, minutes: float, seed: int) -> None:
    """Judge pictures for ``minutes``, going on from what there is; shards of fifty in ``judged/``.

    Parameters
    ----------
    seed : of this run; runs with different seeds can go on beside each other
    """
    end = time.monotonic() + minutes * 60
    out = work / "judged"
    out.mkdir(exist_ok=True)
    number = len(list(out.glob(f"{seed}-*.npz")))
    while time.monotonic() < end:
        path = out / f"{seed}-{number:05}.npz"
        save(path, list(_judged_pictures(work, seed, number * _SAVE_EVERY)))
        print(path.name, flush=True)
        number += 1


def save(path: Path, pictures: list[Judged]) -> None:
    """Write a shard whole or not at all."""
    partial = path.with_suffix(".partial")
    with partial.open("wb") as file:
        np.savez_compressed(
            file,
            numbers=np.stack([p.numbers for p in pictures]).astype(np.float32),
            gains=np.stack([p.gains for p in pictures]).astype(np.float32),
            factors=np.array([p.factor for p in pictures]),
            chains=np.array([json.dumps({**asdict(p.chain), "source": p.source}) for p in pictures]),
        )
    partial.replace(path)


def _judged_pictures(work: Path, seed: int, first: int) -> Iterator[Judged]:
    index = np.load(work / "cells.npz")
    names, collections = index["names"], index["collections"]
    for number in range(first, first + _SAVE_EVERY):
        random = np.random.default_rng((seed, number))
        history = str(random.choice(list(_HISTORIES), p=list(_HISTORIES.values())))
        shares = _FEW_TONES_SHARES if history == "few tones" else _SHARES
        collection = str(random.choice(list(shares), p=list(shares.values())))
        name = str(random.choice(names[collections == collection]))
        truth = np.asarray(Image.open(prepared_dir(work) / name).convert("RGB"))
        factor, side = int(random.choice(_FACTORS)), int(random.integers(*_SIDES_PX))
        cut = _cut(truth, factor * side, factor, random)
        if cut is None:
            continue
        tried = None if is_held_back(name) else _TRIED
        judged = judge_picture(
            cut, factor, int(random.integers(2**31)), unlisted=False, source=name, tried=tried, history=history
        )
        if judged is not None:
            yield judged


def _cut(truth: np.ndarray, side: int, factor: int, random: np.random.Generator) -> np.ndarray | None:
    """A piece of the picture that is not flat; None where the picture is too small."""
    height, width = (min(side, n - n % factor) for n in truth.shape[:2])
    if min(height, width) < LEAST_SIDE_PX * factor:
        return None
    pieces = []
    for _ in range(3):
        y, x = (int(random.integers(n - s + 1)) for n, s in zip(truth.shape, (height, width), strict=False))
        pieces.append(truth[y : y + height, x : x + width])
    return np.ascontiguousarray(max(pieces, key=lambda p: float(np.abs(np.diff(p.astype(np.int16), axis=1)).mean())))


def judge_picture(
    truth: np.ndarray,
    factor: int,
    seed: int,
    *,
    unlisted: bool,
    source: str,
    tried: int | None = None,
    history: str = "by chance",
) -> Judged | None:
    """Give a picture a history, measure it, and enlarge it in every way; None where it is too small to read.

    Parameters
    ----------
    truth : (H, W, 3) uint8, sides multiples of ``factor``
    unlisted : whether the history has a step of those that are left out of training
    history : of `_HISTORIES`: steps in any order, usual ones in their usual order, or two or a few tones
    tried : of the alternatives, how many, by chance; None for all
    """
    side = (truth.shape[1] // factor, truth.shape[0] // factor)
    if history == "by chance":
        file, chain = degrade(truth, side, seed, unlisted=unlisted)
    else:
        file, chain = {"usual": usual_file, "few tones": few_tones_file}[history](truth, side, seed)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"small.{chain.suffix}"
        path.write_bytes(file)
        small = read_picture(path)
        condition = measure_whole_condition(small, rows=UPSCALING_ROWS)
    if condition.read is None:
        return None
    numbers = [picture_numbers(small, condition.compression.strength), condition_numbers(condition, factor)]
    ways: list[tuple[str, Values, float]] = [(a.upscaler, a.values, 1.0) for a in alternatives(condition)]
    drawn = np.random.default_rng(seed).permutation(len(ways))[: len(ways) if tried is None else tried]
    skipped = set(range(len(ways))) - {int(n) for n in drawn}
    ways.append(_way(suggest_by_rules(condition)))
    # What is suggested is measured where nothing is learned from the picture.
    asked = _way(suggest(condition, factor)) if unlisted else None
    made: dict[object, float] = {}
    for number, way in enumerate((*ways, ("bicubic", Values(), 1.0), *([asked] if asked else []))):
        if number not in skipped and way not in made:
            made[way] = luma_psnr(written(enlarged_by(small, truth, way[0], way[1], way[2])), truth, factor)
    base = made[("bicubic", Values(), 1.0)]
    gains = np.array([made.get(way, np.nan) - base for way in ways])
    suggested = np.nan if asked is None else made[asked] - base
    return Judged(np.concatenate(numbers), gains, suggested, chain, factor, source)


def _way(suggested: Suggestions) -> tuple[str, Values, float]:
    """What is suggested, but for crispness, which is no question of being near to the truth."""
    values = suggested.values_for(suggested.upscaler, find_upscaler(suggested.upscaler).values)
    return suggested.upscaler, values.replace(crispness=0.0), suggested.shrink_first


def picture_numbers(picture: Picture, compression: float) -> np.ndarray:
    """The numbers of its fine structure, (248,) float32."""
    return compute_features(Sample(picture).colour, compression / 100)
