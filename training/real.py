"""Measures what a user gets on damaged pictures, against the truth and against the best there is."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path

import numpy as np

from training.heldout import luma_psnr
from training.history import History, apply, noise_after, save_as, softness_value
from training.second import second_drawings, second_pages, second_photographs
from wamplex.core.analysis.suggestion.suggestion import measure_and_suggest
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.readings.full_reference import gmsd, luma, ssim
from wamplex.core.render.render import render
from wamplex.core.trial.registry import find_upscaler

_NEAR_DB = 0.05


def noisy_jpeg(levels: float, quality: int) -> tuple[History, History]:
    """Noise half of which all channels share, even, and growing with the light."""
    part = levels / 2**0.5
    even = History(noise=part, colour_noise=part, codec="jpeg", quality=quality)
    return even, replace(even, with_light=True)


# What a picture may have been through. Pictures take the several histories of a name in turn.
DAMAGES: dict[str, tuple[History, ...]] = {
    "clean": (History(),),
    "soft 0.4 to 0.7 px": tuple(History(blur_px=b) for b in (0.4, 0.5, 0.6, 0.7)),
    "web (mask 0.8 px 90 %, JPEG 75)": (History("lanczos", amount=0.9, codec="jpeg", quality=75),),
    "JPEG 40": (History(codec="jpeg", quality=40),),
    "JPEG 60": (History(codec="jpeg", quality=60),),
    "JPEG 85": (History(codec="jpeg", quality=85),),
    "WebP 40": (History(codec="webp", quality=40),),
    "WebP 75": (History(codec="webp", quality=75),),
    "noise 8, JPEG 80": noisy_jpeg(8, 80),
    "noise 20, JPEG 80": noisy_jpeg(20, 80),
    "enlarged 2x before": (History(enlarged=2.0),),
}
# Upscalers that the suggestion is compared with, each with the measured values.
RIVALS = ("vellum", "mender", "burin", "lanczos")


@dataclass(frozen=True)
class Result:
    """Luma PSNR over bicubic in dB of one picture, and what was suggested.

    Attributes
    ----------
    told : with the values that were put in, in the suggested upscaler for them
    measured : as suggested
    best : of the suggestion, the rivals, and the rivals with nothing told
    """

    told: float
    measured: float
    best: float
    upscaler: str
    values: dict[str, float]
    ssim: float
    gmsd: float


def told_values(history: History) -> Values:
    """The values that would be right."""
    noise, _ = noise_after(history)
    codec = "webp" if history.codec in ("webp", "avif") else "jpeg"
    found = {"noise": min(2 * noise, 100), "compression": 100 * history.blocks, "codec": codec}
    return Values.model_validate({**found, "blur": softness_value(history)})


def damaged_file(
    truth: np.ndarray, factor: int, history: History, folder: Path, number: int
) -> tuple[np.ndarray, Picture]:
    """The truth cut to a multiple of the factor, and the small picture as it is opened from its file."""
    height, width = (n - n % factor for n in truth.shape[:2])
    truth = np.ascontiguousarray(truth[:height, :width])
    random = np.random.default_rng(1000 + number)
    pixels = apply(truth, (width // factor, height // factor), history, random, last_save=False)
    path = folder / f"small.{history.codec or 'png'}"
    path.write_bytes(save_as(pixels, history.codec, history.quality, history.subsampling))
    return truth, read_picture(path)


def measure_picture(truth: np.ndarray, factor: int, history: History, number: int, *, rivals: bool = True) -> Result:
    """Enlarge one picture as suggested, as told, and in all other ways."""
    with tempfile.TemporaryDirectory() as folder:
        truth, small = damaged_file(truth, factor, history, Path(folder), number)
        suggested = measure_and_suggest(small)

    @cache  # several of the ways below are often the same
    def psnr(key: str, values: Values, shrink: float) -> float:
        return luma_psnr(written(enlarged_by(small, truth, key, values, shrink)), truth, factor)

    base = psnr("bicubic", Values(), 1.0)
    suited, shrink = _for(suggested, suggested.upscaler), suggested.shrink_first
    measured = psnr(suggested.upscaler, suited, shrink)
    made = enlarged_by(small, truth, suggested.upscaler, suited, shrink)
    told = told_values(history)
    key = _suited(told, suggested.upscaler)
    others = [measured]
    if rivals:
        for rival in RIVALS:
            for values in {_for(suggested, rival), Values()}:
                others += [psnr(rival, values, by) for by in {1.0, shrink}]
    cut = (slice(factor, -factor), slice(factor, -factor))
    one, other = luma(made)[cut], luma(truth.astype(np.float32) / np.float32(255))[cut]
    return Result(
        psnr(key, heeded(told, key), history.enlarged) - base,
        measured - base,
        max(others) - base,
        suggested.upscaler,
        {n: float(getattr(suggested.values, n)) for n in ("noise", "compression", "blur", "motion_blur_px")},
        ssim(one, other),
        gmsd(one, other),
    )


def _suited(told: Values, suggested: str) -> str:
    """The upscaler for known values; drawings stay with what was suggested."""
    if suggested not in ("vellum", "mender"):
        return suggested
    return "mender" if told.noise > 0 or told.compression > 0 else "vellum"


def heeded(values: Values, key: str) -> Values:
    """Those among some values that an upscaler heeds."""
    return Values(**{name: getattr(values, name) for name in find_upscaler(key).values})


def _for(suggested: Suggestions, key: str) -> Values:
    """Without crispness, which makes a result look nearer to the truth and not be so."""
    return suggested.values_for(key, find_upscaler(key).values).replace(crispness=0.0)


def enlarged_by(small: Picture, truth: np.ndarray, key: str, values: Values, shrink: float = 1.0) -> Pixels:
    """The small picture at the size of the truth."""
    height, width = truth.shape[:2]
    framing = Framing(shrink_first=shrink)
    recipe = Recipe(base=TrialSpec(upscaler=key, values=values), factor=width / small.width, framing=framing)
    return render(small, recipe, Window(0, 0, width, height))


def written(pixels: Pixels) -> np.ndarray:
    """RGB in 8 bits, as a file would have it."""
    made: np.ndarray = np.rint(pixels * 255).astype(np.uint8)
    return made[..., :3] if made.shape[2] >= 3 else np.repeat(made, 3, axis=2)


def measure_group(
    pictures: dict[str, np.ndarray], damage: str, factor: int, *, rivals: bool = True
) -> Iterator[tuple[str, Result]]:
    """Each picture's result under a damage of `DAMAGES`."""
    histories = DAMAGES[damage]
    for number, (name, truth) in enumerate(pictures.items()):
        history = histories[number % len(histories)]
        yield name, measure_picture(truth, factor, history, number, rivals=rivals)


def row_of(damage: str, results: list[Result]) -> str:
    """A line of the table."""
    told, measured, best = (np.array([getattr(r, n) for r in results]) for n in ("told", "measured", "best"))
    near = int((measured >= best - _NEAR_DB).sum())
    kinds = [r.upscaler for r in results]
    cells = [f"{n:+.2f}" for n in (told.mean(), measured.mean(), measured.min(), best.mean())]
    cells += [f"{near} of {len(results)}"]
    cells += [f"{np.mean([getattr(r, n) for r in results]):.4f}" for n in ("ssim", "gmsd")]
    cells += [", ".join(f"{k} {kinds.count(k)}" for k in sorted(set(kinds)))]
    return f"| {damage} | {' | '.join(cells)} |"


_HEAD = """# Real pictures, measured

Made by `make evaluate-real`. The second held-out set: 25 photographs (material-dashboard and
argon-design-system-free of the npm registry), 6 drawings (playing cards of kdegames-card-data-kf5) and 4
pages set in Open Sans and Junicode; no network was trained on any of them. Each is shrunk and damaged as the
row says, written to a file, opened, measured and enlarged as the program suggests, without other help. Luma
PSNR relative to bicubic in dB, without crispness, a border of the factor cut off. *Told*: with the true values.
*Measured*: as suggested. *Least*: the picture that gains least. *Best*: the best of the suggestion and of
Vellum, Mender, Burin and Lanczos, each with the measured values and with none. *Near*: pictures
whose suggestion is within 0.05 dB of the best. SSIM (Wang et al. 2004) and GMSD (Xue et al. 2014; less is
better) of the suggestion.
"""
_COLUMNS = ("damage", "told", "measured", "least", "best", "near", "SSIM", "GMSD", "suggested")
_BAR = f"| {' | '.join(_COLUMNS)} |\n{'|---' * len(_COLUMNS)}|"


def evaluate_real(work: Path, out: Path, factors: tuple[int, ...]) -> None:
    """Write the tables as Markdown, and every result as JSON beside the checkpoints."""
    groups = {
        "Photographs": second_photographs(work),
        "Drawings and pages": {**second_drawings(work), **second_pages(work)},
    }
    parts, kept = [_HEAD], {}
    for factor in factors:
        for title, pictures in groups.items():
            parts.append(f"\n## {title}, {factor}x\n\n{_BAR}")
            for damage in DAMAGES:
                results = dict(measure_group(pictures, damage, factor))
                kept.update({f"{title} {factor}x {damage} {n}": vars(r) for n, r in results.items()})
                parts.append(row_of(damage, list(results.values())))
                print(f"{title} {factor}x {parts[-1]}", flush=True)
                out.write_text("\n".join(parts) + "\n")
    (work / "real.json").write_text(json.dumps(kept, indent=1))
