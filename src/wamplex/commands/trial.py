"""``wamplex trial``: the known-answer test without a window."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, get_args

import typer
from rich.console import Console
from rich.table import Table

from wamplex.commands import SOME_FAILED, USAGE
from wamplex.commands.console import print_error, progress_bars
from wamplex.commands.option_groups import refuse_infinite
from wamplex.core.analysis.suggestion.suggestion import measure_and_suggest
from wamplex.core.base.errors import RecipeError, WamplexError
from wamplex.core.base.progress import Progress
from wamplex.core.guests.guest_store import add_guest
from wamplex.core.intake.read import read_picture
from wamplex.core.known_answer.compare import USUAL_UPSCALERS, Answer, as_csv, as_rows, compare
from wamplex.core.known_answer.question import ShrinkKernel, TestDamage, make_question
from wamplex.core.known_answer.raw_question import make_raw_question
from wamplex.core.known_answer.truth_alignment import question_from_truth
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.trial.registry import find_upscaler


def trial(
    picture: Annotated[Path, typer.Argument(metavar="IN", help="A picture file.")],
    upscalers: Annotated[str, typer.Option(help="Upscaler keys, comma-separated.")] = ",".join(USUAL_UPSCALERS),
    factor: Annotated[float, typer.Option(help="Enlargement, above 1 to 8.")] = 4.0,
    truth: Annotated[Path | None, typer.Option(help="Large original of IN; by default IN itself is shrunk.")] = None,
    guests: Annotated[str, typer.Option(help="Files enlarged elsewhere, comma-separated; needs --truth.")] = "",
    kernel: Annotated[str, typer.Option(help="Shrink with: bicubic, lanczos or area.")] = "bicubic",
    quality: Annotated[int | None, typer.Option(help="Save the shrunk picture as JPEG of this quality.")] = None,
    noise: Annotated[float, typer.Option(help="Add noise of this standard deviation, in levels.")] = 0.0,
    as_csv_: Annotated[bool, typer.Option("--csv", help="Print comma-separated values.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
) -> None:
    """Shrink a picture, enlarge it again with each upscaler, and rank the results by closeness to the original."""
    refuse_infinite({"factor": factor, "noise": noise})
    try:
        keys = [find_upscaler(key.strip()).key for key in upscalers.split(",") if key.strip()]
        if not keys:
            raise RecipeError("Name at least one upscaler with --upscalers.")
        files = [Path(name.strip()) for name in guests.split(",") if name.strip()]
        if files and truth is None:
            raise RecipeError("Guests are compared with the original of IN: give --truth.")
        damage = _damage(kernel, quality, noise)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(USAGE) from error
    try:
        with progress_bars(as_json or as_csv_) as shown:
            task = shown.add_task(picture.name, total=1.0, words="reading")
            progress = Progress(lambda done, words: shown.update(task, completed=done, words=words))
            source = read_picture(picture, progress)
            if truth is None and source.raw is not None and source.raw.mosaic is not None:
                question = make_raw_question(source, factor)
                values = Values()
            elif truth is None:
                question = make_question(source, factor, damage)
                values = Values(noise=min(2 * noise, 100), compression=0 if quality is None else 100 - quality)
            else:
                question = question_from_truth(source, read_picture(truth, progress))
                values = measure_and_suggest(source).values
            keys += [add_guest(file, source, progress).key for file in files]
            trials = [(find_upscaler(key).name, Recipe(base=TrialSpec(upscaler=key, values=values))) for key in keys]
            answers = compare(question, trials, progress)
    except WamplexError as error:
        print_error(str(error))
        raise typer.Exit(SOME_FAILED) from error
    if as_json:
        print(json.dumps({"question": question.text, "answers": as_rows(answers)}, indent=2))
    elif as_csv_:
        print(as_csv(answers), end="")
    else:
        _print_table(question.text, answers)


def _damage(kernel: str, quality: int | None, noise: float) -> TestDamage:
    if kernel not in get_args(ShrinkKernel):
        raise RecipeError(f"--kernel cannot be “{kernel}”. Choose one of: {', '.join(get_args(ShrinkKernel))}.")
    if quality is not None and not 1 <= quality <= 100:
        raise RecipeError(f"A JPEG quality of {quality} is outside 1 to 100.")
    if not 0 <= noise <= 50:
        raise RecipeError(f"Noise of {noise:g} levels is outside 0 to 50.")
    return TestDamage(kernel, quality, noise)  # type: ignore[arg-type]


def _print_table(text: str, answers: list[Answer]) -> None:
    console = Console()
    console.print(f"{text}; the closest to the truth first", highlight=False)
    table = Table("upscaler", "PSNR dB", "SSIM", "GMSD", "ΔE", "seconds", box=None)
    for a in answers:
        numbers = (
            f"{a.psnr_db:.2f}",
            f"{a.ssim:.4f}",
            f"{a.gmsd:.4f}",
            f"{a.ciede2000:.2f}",
            f"{a.seconds:.2f}",
        )
        table.add_row(a.label, *numbers)
    console.print(table)
