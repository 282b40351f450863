"""Measures which passes reach which factor best, and writes the table that ships with the application."""

from __future__ import annotations

import json
import time
from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from training.heldout import held_out_drawings, held_out_photographs
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.upscale_values import Values
from wamplex.core.readings.full_reference import luma, psnr
from wamplex.core.upscale.stages.stage import SourceStage
from wamplex.core.upscale.upscalers.burin import BURIN
from wamplex.core.upscale.upscalers.learned import Learned, Network
from wamplex.core.upscale.upscalers.mender import MENDER
from wamplex.core.upscale.upscalers.vellum import VELLUM, VELLUM_QUICK

FACTORS = (1.25, 1.5, 2.0, 2.5, 3.0, 3.5, 4.0, 5.0, 6.0, 7.0, 8.0)
# A chain that takes longer must be better by this much.
_WORTH_DB = 0.03
_MOST_OVERSHOOT = 2.7
_PICTURES = 8


def measure_chains(work: Path, out: Path) -> None:
    """Write ``chains.json``: for each upscaler, ranges of factors with their passes and what was measured.

    A range ends half way between two measured factors, but never beyond a factor that its passes reach
    exactly, where the next range begins.
    """
    photographs = list(held_out_photographs(work).values())[:_PICTURES]
    drawings = list(held_out_drawings(work).values())[:_PICTURES]
    chains = {}
    for upscaler in (VELLUM, VELLUM_QUICK, MENDER, BURIN):
        pictures = drawings if upscaler is BURIN else photographs
        rows: list[dict[str, Any]] = []
        for factor in FACTORS:
            measured = [(c, *_measure(upscaler, c, pictures, factor)) for c in candidates(upscaler, factor)]
            rows.append({"factor": factor, **_best(measured, factor)})
            print(f"{upscaler.key} {factor}x: {rows[-1]}", flush=True)
        for row, following in pairwise(rows):
            row["up_to"] = row["factor"] if row["exact"] else (row["factor"] + following["factor"]) / 2
        rows[-1]["up_to"] = FACTORS[-1]
        chains[upscaler.key] = rows
    out.write_text(json.dumps({"measured": "luma PSNR in dB on held-out pictures", "chains": chains}, indent=1))


def candidates(upscaler: Learned, factor: float) -> list[tuple[Network, ...]]:
    """All chains of one or two passes that come near the factor from either side."""
    chains: list[tuple[Network, ...]] = [(n,) for n in upscaler.networks]
    chains += [(a, b) for a in upscaler.networks for b in upscaler.networks]
    return [c for c in chains if 0.6 <= _reach(c) / factor <= _MOST_OVERSHOOT]


def _reach(chain: tuple[Network, ...]) -> int:
    return int(np.prod([n.factor for n in chain]))


def _best(measured: list[tuple[tuple[Network, ...], float, float]], factor: float) -> dict[str, object]:
    """The fastest of the chains that are as good as the best."""
    most = max(decibels for _, decibels, _ in measured)
    good = [row for row in measured if row[1] > most - _WORTH_DB]
    chain, decibels, seconds = min(good, key=lambda row: row[2])
    others = {
        " then ".join(str(n.factor) for n in c): round(db, 2) for c, db, _ in sorted(measured, key=lambda r: -r[1])
    }
    return {
        "passes": [n.factor for n in chain],
        "exact": _reach(chain) == factor,
        "psnr_db": round(decibels, 2),
        "seconds_per_megapixel": round(seconds, 2),
        "tried": others,
    }


def _measure(
    upscaler: Learned, chain: tuple[Network, ...], pictures: list[np.ndarray], factor: float
) -> tuple[float, float]:
    decibels, seconds, megapixels = [], 0.0, 0.0
    for truth in pictures:
        height, width = truth.shape[:2]
        size = (round(width / factor), round(height / factor))
        small = np.asarray(Image.fromarray(truth).resize(size, Image.Resampling.BICUBIC))
        begun = time.perf_counter()
        made = _through(upscaler, chain, small, width, height)
        seconds += time.perf_counter() - begun
        megapixels += width * height / 1e6
        cut = (slice(8, -8), slice(8, -8))
        decibels.append(psnr(luma(made)[cut], luma(truth.astype(np.float32) / np.float32(255))[cut]))
    return float(np.mean(decibels)), seconds / megapixels


def _through(upscaler: Learned, chain: tuple[Network, ...], small: np.ndarray, width: int, height: int) -> Pixels:
    source = SourceStage(Picture(small.astype(np.float32) / np.float32(255)))
    stage = upscaler.chain_through(chain, source, width, height, Values())
    made: Pixels = np.clip(stage.render(Window(0, 0, width, height), Progress()), 0, 1)
    return made
