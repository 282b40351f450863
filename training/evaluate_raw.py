"""Measures Tessera on simulated raw files of held-out photographs, beside LibRaw and the others."""

from __future__ import annotations

import json
import tempfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from training.heldout import held_out_photographs
from training.heldout_raw import NOISES, colour_psnr, opened_camera
from training.sensor import linear_light, shrunk_light
from training.zone_plate import write_zone_plate
from wamplex.core.base.window import Window
from wamplex.core.model.development import METHOD_WORDS, Development, Method
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.render import render

FACTORS = (1, 2, 4)
METHODS: tuple[Method, ...] = ("ahd", "aahd", "dcb", "dht")
_HEAD = """# Raw files, measured

Made by `python -m training evaluate-raw`. The 14 held-out photographs of `make evaluate`, shrunk in linear
light with the antialiased bicubic kernel, photographed by the simulated camera (linear sRGB primaries, white
balance gains 2.0, 1 and 1.54, 14 bits), written as a DNG and opened again as any raw file: PSNR of sRGB in 8
bits, all channels, a border of 8 pixels cut off, mean over the photographs; "least" is the smallest gain of
Tessera among them, "self_ensemble" its mean gain with Slow and careful, "hindsight" the mean gain where Mender is
told that noise, half of it and twice of it, and the best of the three counts on each photograph. Noise:
variance = a x signal + b of full scale; clean 0 and 0, middle 0.0005 and 0.002², strong 0.004 and 0.006²; the
file states it. Rivals: at 1x
LibRaw's own methods; at 2x and 4x LibRaw's AHD enlarged by Vellum and by Mender, which is given the noise
that AHD left, measured against the clean file. The best rival counts for each photograph.
"""
_HINDSIGHT = "AHD, Mender, the best of three"
_PLATE = """## A zone plate

Grey rings up to 0.4 cycles a pixel, without noise, at 1x: AHD, DCB, Tessera. The plate has no colour. The
colour that each method adds, as the mean distance from grey in CIELAB: {words}.

![AHD, DCB, Tessera](zone-plate.png)
"""


@dataclass(frozen=True)
class _Case:
    picture: Picture
    truth: np.ndarray
    noise_levels: float  # that AHD leaves, in 8-bit levels of luma


def evaluate_raw(work: Path, out: Path, factors: tuple[int, ...] = FACTORS) -> None:
    """Write the tables as Markdown."""
    parts, found = [_HEAD], {}
    photographs = held_out_photographs(work)
    for factor in factors:
        lines = [f"## {factor}x", "", "| noise | " + " | ".join(_columns(factor)) + " |"]
        lines.append("|" + "---|" * (1 + len(_columns(factor))))
        for name, noise in NOISES.items():
            rows = {}
            for title, pixels in photographs.items():
                with tempfile.TemporaryDirectory() as folder:
                    rows[title] = _measured(_case(Path(folder), pixels, factor, noise), factor)
                print(f"{factor}x {name} {title}: {rows[title]}", flush=True)
            lines.append(_row(name, rows))
            found[f"{factor}x {name}"] = rows
        parts.append("\n".join([*lines, ""]))
        out.write_text("\n".join(parts))
    (work / "measured-raw.json").write_text(json.dumps(found, indent=1))
    colours = write_zone_plate(out.parent / "zone-plate.png")
    words = ", ".join(f"{METHOD_WORDS[m]} {value:.2f}" for m, value in colours.items())
    parts.append(_PLATE.format(words=words))
    out.write_text("\n".join(parts))


def _columns(factor: int) -> list[str]:
    rivals = [m.upper() for m in METHODS] if factor == 1 else ["AHD, Vellum", "AHD, Mender"]
    own = ["Tessera", "gain", "least", "self_ensemble", *([] if factor == 1 else ["hindsight"])]
    return [*rivals, "best of them", *own]


def _case(folder: Path, pixels: np.ndarray, factor: int, noise: SensorNoise) -> _Case:
    height, width = (n - n % (2 * factor) for n in pixels.shape[:2])
    truth = np.ascontiguousarray(pixels[:height, :width])
    light = np.clip(shrunk_light(linear_light(truth), factor), 0, 1)
    picture = opened_camera(folder / "noisy.dng", light, noise)
    clean = picture if noise == SensorNoise() else opened_camera(folder / "clean.dng", light, SensorNoise())
    left = (picture.pixels - clean.pixels).mean(axis=2).std() * 255
    return _Case(picture, truth, float(left))


def _measured(case: _Case, factor: int) -> dict[str, float]:
    made = {"Tessera": _psnr(case, "tessera", factor)}
    made["self_ensemble"] = _psnr(case, "tessera", factor, Values(self_ensemble=True))
    if factor == 1:
        for method in METHODS:
            made[method.upper()] = _psnr(case, "nearest", 1, development=_development(method))
        return made
    made["AHD, Vellum"] = _psnr(case, "vellum", factor)
    told = [Values(noise=min(2 * share * case.noise_levels, 100)) for share in (1.0, 0.5, 2.0)]
    by_mender = [_psnr(case, "mender", factor, values) for values in told]
    made["AHD, Mender"], made[_HINDSIGHT] = by_mender[0], max(by_mender)
    return made


def _development(method: Method = "ahd") -> Development:
    return Development(space="srgb", method=method)


def _psnr(
    case: _Case,
    key: str,
    factor: int,
    values: Values | None = None,
    development: Development | None = None,
) -> float:
    recipe = Recipe(
        base=TrialSpec(upscaler=key, values=values or Values()),
        factor=factor,
        development=development or _development(),
    )
    height, width = case.truth.shape[:2]
    pixels = render(case.picture, recipe, Window(0, 0, width, height))
    return colour_psnr(np.rint(pixels * 255).astype(np.uint8), case.truth)


def _row(name: str, rows: dict[str, dict[str, float]]) -> str:
    rivals = [key for key in next(iter(rows.values())) if key not in ("Tessera", "self_ensemble", _HINDSIGHT)]
    best = {title: max(row[key] for key in rivals) for title, row in rows.items()}
    gains = [row["Tessera"] - best[title] for title, row in rows.items()]
    means = [float(np.mean([row[key] for row in rows.values()])) for key in rivals]
    ours = float(np.mean([row["Tessera"] for row in rows.values()]))
    cells = [*means, float(np.mean(list(best.values()))), ours]
    numbers = " | ".join(f"{n:.2f}" for n in cells)
    careful = float(np.mean([row["self_ensemble"] - best[title] for title, row in rows.items()]))
    line = f"| {name} | {numbers} | {np.mean(gains):+.2f} | {min(gains):+.2f} | {careful:+.2f} |"
    if _HINDSIGHT in next(iter(rows.values())):
        wise = [row["Tessera"] - max(best[title], row[_HINDSIGHT]) for title, row in rows.items()]
        line += f" {np.mean(wise):+.2f} |"
    return line
