"""Measures every upscaler on the held-out pictures and writes the tables of the documentation."""

from __future__ import annotations

import hashlib
import json
import time
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np

from training.damage import Damaged
from training.heldout import CONDITIONS, held_out_drawings, held_out_photographs, shrink
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.readings.full_reference import gmsd, luma, psnr, ssim
from wamplex.core.render.render import render
from wamplex.core.trial.registry import UPSCALERS, find_upscaler

FACTORS = (2, 3, 4)
_HEAD = """# All upscalers, measured

Made by `make evaluate`. Means over pictures that no network was trained on: 14 photographs (scikit-image's
astronaut, chelsea, coffee, camera, rocket, brick; scikit-learn's china and flower; OpenCV's baboon, fruits,
building, butterfly, aloeL, graf1), and 20 drawings and pages (Open Clip Art drawings kept back; pages
set in Cantarell and Vollkorn). Each picture is shrunk with the antialiased bicubic kernel in 8 bits, damaged
as the heading says, enlarged again by Wamplex's renderer, and compared with the original: PSNR and SSIM (Wang
et al.
2004) and GMSD (Xue et al. 2014, less is better) of the luma of ITU-R BT.601, a border of the factor cut off.
"Gain" is relative to bicubic; "least" is the gain of the picture that gains least. Mender is given the noise
and compression that were added, and is not used for clean pictures. Thicket runs at Invention 60. Seconds are
per output megapixel; only those of the clean photographs were measured on an otherwise idle machine.
"""


_COLUMNS = """### {}x

| upscaler | PSNR dB | gain dB | least dB | SSIM | GMSD | s/MP |
|---|---|---|---|---|---|---|"""


class Known:
    """Results measured before, so that only what has changed since is measured again.

    A result counts for the very weights it was measured with, and is lost when rendering changes what the
    weights make of a small picture.
    """

    def __init__(self, path: Path) -> None:
        self._path = path
        self._rows: dict[str, list[float]] = json.loads(path.read_text()) if path.exists() else {}
        self._marks = {upscaler.key: _mark(upscaler.key) for upscaler in UPSCALERS}

    def measured(
        self, key: str, about: str, measure: Callable[[], tuple[float, float, float, float]]
    ) -> tuple[float, float, float, float]:
        """The result under this heading, measured now if it is not known."""
        name = f"{key} {self._marks[key]} {about}"
        if name not in self._rows:
            self._rows[name] = list(measure())
        first, second, third, fourth = self._rows[name]
        return first, second, third, fourth

    def save(self) -> None:
        """Keep what is known."""
        self._path.parent.mkdir(parents=True, exist_ok=True)
        self._path.write_text(json.dumps(self._rows))


def _mark(key: str) -> str:
    """A fingerprint of what an upscaler makes of a small picture at every native factor."""
    picture = Picture(np.random.default_rng(1).random((24, 30, 3)).astype(np.float32))
    total = hashlib.sha256()
    for factor in FACTORS:
        for values in (Values(), Values(noise=30, compression=50)):
            recipe = Recipe(base=TrialSpec(upscaler=key, values=values), factor=factor)
            made = render(picture, recipe, Window(0, 0, 30 * factor, 24 * factor))
            total.update(np.rint(made * 1000).astype(np.int16).tobytes())
    return total.hexdigest()[:12]


@dataclass(frozen=True)
class _Row:
    psnrs: list[float]
    ssim: float
    gmsd: float
    seconds: float


def evaluate(work: Path, out: Path, factors: tuple[int, ...] = FACTORS, only: tuple[str, ...] = ()) -> None:
    """Write the tables, one heading a condition, as Markdown; the file grows with every table.

    With keys of upscalers in ``only``, their rows are measured anew, but for the seconds, which want a
    machine that does nothing else, and the others stay as they are.
    """
    photographs, drawings = held_out_photographs(work), held_out_drawings(work)
    sections = [("Clean photographs", photographs, CONDITIONS["clean"])]
    sections.append(("Clean drawings and lettering", drawings, Damaged))
    for name in ("JPEG 50", "noise 15", "JPEG 30", "JPEG 75", "noise 5", "noise 25"):
        sections.append((f"Photographs, {name}", photographs, CONDITIONS[name]))
    parts = [_HEAD]
    earlier = _rows_in(out.read_text()) if only else {}
    known = Known(work / "measured.json")
    for title, pictures, damage in sections:
        parts.append(f"## {title}\n")
        for factor in factors:
            wanted = [u for u in UPSCALERS if not only or u.key in (*only, "bicubic")]
            rows = {u.key: _measure(u.key, title, pictures, damage, factor, known) for u in wanted}
            lines = {key: _line(key, row, rows["bicubic"].psnrs) for key, row in rows.items()}
            if only:
                before = earlier[title, factor]
                lines = before | {key: _with_seconds_of(before[key], lines[key]) for key in only}
            parts.append("\n".join([_COLUMNS.format(factor), *(lines[u.key] for u in UPSCALERS), ""]))
            known.save()
            if not only:
                out.write_text("\n".join(parts))
            print(f"{title} {factor}x measured", flush=True)
    out.write_text("\n".join(parts))


def _line(key: str, row: _Row, base: list[float]) -> str:
    gains = np.subtract(row.psnrs, base)
    decibels = f"{np.mean(row.psnrs):.2f} | {np.mean(gains):+.2f} | {gains.min():+.2f}"
    others = f"{row.ssim:.4f} | {row.gmsd:.4f} | {row.seconds:.2f}"
    return f"| {find_upscaler(key).name} | {decibels} | {others} |"


def _with_seconds_of(before: str, line: str) -> str:
    return " | ".join([*line.split(" | ")[:-1], before.split(" | ")[-1]])


def _rows_in(written: str) -> dict[tuple[str, int], dict[str, str]]:
    """Lines of tables that were written before, by heading and factor, then by the upscaler's key."""
    keys = {upscaler.name: upscaler.key for upscaler in UPSCALERS}
    found: dict[tuple[str, int], dict[str, str]] = {}
    title, factor = "", 0
    for line in written.splitlines():
        if line.startswith("## "):
            title = line[3:]
        elif line.startswith("### "):
            factor = int(line[4:].rstrip("x"))
        elif line.startswith("| ") and line.split(" | ")[0][2:] in keys:
            found.setdefault((title, factor), {})[keys[line.split(" | ")[0][2:]]] = line
    return found


def _measure(
    key: str,
    title: str,
    pictures: dict[str, np.ndarray],
    damage: Callable[[np.ndarray], Damaged],
    factor: int,
    known: Known,
) -> _Row:
    results = [
        known.measured(key, f"{title} {factor}x {name}", partial(enlarged_and_compared, key, picture, damage, factor))
        for name, picture in pictures.items()
    ]
    psnrs, ssims, gmsds, seconds = zip(*results, strict=True)
    return _Row(list(psnrs), float(np.mean(ssims)), float(np.mean(gmsds)), float(np.mean(seconds)))


def enlarged_and_compared(
    key: str, picture: np.ndarray, damage: Callable[[np.ndarray], Damaged], factor: int
) -> tuple[float, float, float, float]:
    """PSNR, SSIM, GMSD and seconds per output megapixel of one picture under one upscaler."""
    truth, small = shrink(picture, factor)
    damaged = damage(small)
    values = Values(noise=100 * damaged.noise_plane, compression=100 * damaged.blocks_plane)
    recipe = Recipe(base=TrialSpec(upscaler=key, values=values), factor=factor)
    height, width = truth.shape[:2]
    source = Picture(damaged.pixels.astype(np.float32) / np.float32(255))
    begun = time.perf_counter()
    made = render(source, recipe, Window(0, 0, width, height))
    seconds = (time.perf_counter() - begun) / (width * height / 1e6)
    written = np.rint(made * 255).astype(np.float32) / np.float32(255)  # what an 8-bit file holds
    cut = (slice(factor, -factor), slice(factor, -factor))
    a, b = luma(written)[cut], luma(truth.astype(np.float32) / np.float32(255))[cut]
    return min(psnr(a, b), 100.0), ssim(a, b), gmsd(a, b), seconds
