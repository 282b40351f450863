"""Enlarges the question with every trial and compares the results with the truth."""

from __future__ import annotations

import csv
import io
import time
from collections.abc import Sequence
from dataclasses import asdict, dataclass, field

import numpy as np

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.convert import to_srgb
from wamplex.core.colour.difference import ciede2000, srgb_to_lab
from wamplex.core.geometry.framing import Framing
from wamplex.core.known_answer.question import Question
from wamplex.core.model.picture import Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.readings.catalogue import READINGS
from wamplex.core.readings.full_reference import gmsd, luma, psnr, ssim
from wamplex.core.readings.reading_input import gather_input
from wamplex.core.render.render import render

# What is compared where nothing else is asked for: two ways of interpolation, one that follows edges, one learned.
USUAL_UPSCALERS = ("bicubic", "lanczos", "contour", "vellum")
_CUT_PX = 8


@dataclass(frozen=True)
class Answer:
    """How near one trial came to the truth.

    Attributes
    ----------
    label : what the trial is called
    psnr_db, ssim, gmsd : of the luma of ITU-R BT.601
    ciede2000 : mean colour difference
    seconds : for the enlargement
    readings : value by key
    """

    label: str
    upscaler: str
    psnr_db: float
    ssim: float
    gmsd: float
    ciede2000: float
    seconds: float
    readings: dict[str, float] = field(default_factory=dict)


def compare(question: Question, trials: Sequence[tuple[str, Recipe]], progress: Progress | None = None) -> list[Answer]:
    """Answers of all trials, the nearest to the truth (by PSNR) first.

    Parameters
    ----------
    question : the shrunk picture and its truth
    trials : label and recipe of each; the factor is that of the question
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    PSNR in dB, SSIM, GMSD, mean CIEDE2000, seconds and readings of each.

    Raises
    ------
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    answers = []
    for number, (label, recipe) in enumerate(trials):
        progress.report(number / len(trials), f"known answer, {label}")
        answers.append(_answer(question, label, recipe, progress))
    progress.report(1.0, "known answers compared")
    return sorted(answers, key=lambda answer: -answer.psnr_db)


def answer_pixels(question: Question, recipe: Recipe, window: Window, progress: Progress | None = None) -> Pixels:
    """A trial's answer inside a window of the truth, (h, w, C) in the picture's own profile.

    Parameters
    ----------
    question : the shrunk picture and its truth
    recipe : all decisions about the picture
    window : rectangle, in result pixels
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    float32 in 0..1.
    """
    return render(question.small, _asked(question, recipe), window, progress)


def _asked(question: Question, recipe: Recipe) -> Recipe:
    # The question was framed when it was made.
    values = recipe.values
    if question.shrunk:
        # Compared with itself as it is, a picture must not be made sharper than that.
        values = values.replace(blur=0.0, motion_blur_px=0.0)
    base = recipe.base.replace(values=values)
    return recipe.replace(base=base, factor=question.factor, framing=Framing(), sheet=None)


def _answer(question: Question, label: str, recipe: Recipe, progress: Progress) -> Answer:
    truth = question.truth
    window = Window(0, 0, truth.width, truth.height)
    begun = time.perf_counter()
    answer = answer_pixels(question, recipe, window, progress)
    seconds = time.perf_counter() - begun
    cut = (slice(_CUT_PX, -_CUT_PX), slice(_CUT_PX, -_CUT_PX))
    a, b = luma(_eight_bit(answer))[cut], luma(truth.pixels)[cut]
    shown, truth_srgb = (to_srgb(p, truth)[cut] for p in (answer, truth.pixels))
    difference = ciede2000(srgb_to_lab(shown[::2, ::2]), srgb_to_lab(truth_srgb[::2, ::2]))
    reading_input = gather_input(question.small, _asked(question, recipe), window, progress, rendered=answer)
    return Answer(
        label,
        recipe.upscaler,
        psnr(a, b),
        ssim(a, b),
        gmsd(a, b),
        float(difference.mean()),
        seconds,
        {reading.key: reading.measure(reading_input).value for reading in READINGS},
    )


def _eight_bit(pixels: Pixels) -> Pixels:
    rounded: Pixels = (np.rint(pixels * 255) / 255).astype(np.float32)
    return rounded


def as_rows(answers: Sequence[Answer]) -> list[dict[str, object]]:
    """Flat rows for tables: rounded, readings beside the rest.

    Parameters
    ----------
    answers : results of the trials

    Returns
    -------
    One dictionary per trial.
    """
    rows = []
    for answer in answers:
        values = asdict(answer)
        readings = values.pop("readings")
        row = {k: round(v, 4) if isinstance(v, float) else v for k, v in values.items()}
        rows.append({**row, **{k: round(v, 3) for k, v in readings.items()}})
    return rows


def as_csv(answers: Sequence[Answer]) -> str:
    """Write the rows as comma-separated values with a heading.

    Parameters
    ----------
    answers : results of the trials

    Returns
    -------
    CSV text.
    """
    rows = as_rows(answers)
    out = io.StringIO()
    if rows:
        writer = csv.DictWriter(out, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)
    return out.getvalue()
