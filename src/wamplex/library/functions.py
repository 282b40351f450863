"""Enlarge, assess, read and compare images in memory."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from wamplex.core.analysis.report.condition import measure_whole_condition
from wamplex.core.analysis.report.findings import describe_condition
from wamplex.core.analysis.suggestion.suggestion import SUGGESTED, measure_and_suggest
from wamplex.core.base.errors import RecipeError
from wamplex.core.base.progress import Listener, Progress
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.read import read_picture
from wamplex.core.known_answer.compare import USUAL_UPSCALERS, as_rows
from wamplex.core.known_answer.compare import compare as compare_answers
from wamplex.core.known_answer.question import make_question
from wamplex.core.known_answer.truth_alignment import question_from_truth
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.readings.sampling import readings_at, sample_places
from wamplex.core.render.render import render
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.registry import find_upscaler, known_upscalers
from wamplex.core.workflow.json_values import condition_values, upscaler_values
from wamplex.library.images import to_picture


def open(path: str | Path) -> Picture:
    """Open a picture file: raw files too.

    Parameters
    ----------
    path : of the file

    Returns
    -------
    Picture with ``pixels``, (H, W, C) float32 in 0..1, its profile and metadata. All functions take it.

    Raises
    ------
    WamplexError : when it cannot be read, with a sentence that says why
    """
    return read_picture(Path(path))


def enlarge(
    image: Any,
    factor: float = 2.0,
    *,
    upscaler: str = SUGGESTED,
    progress: Listener | None = None,
    **values: Any,
) -> Any:
    """Enlarge an image.

    Parameters
    ----------
    image : NumPy array (uint8, uint16, or float in 0..1; grey, RGB or RGBA), Pillow image, or picture of `open`
    factor : 0.25 to 8
    upscaler : a key of `upscalers`; "suggested" measures the image and chooses
    progress : is called with a fraction from 0 to 1 and what is being done
    **values : of the upscaler by name, such as ``noise=20`` or ``crispness=50``; the others are the suggested ones
        where the upscaler is suggested, else the defaults. One that the suggested upscaler lacks changes nothing

    Returns
    -------
    The same kind of image with the same dtype, enlarged.

    Raises
    ------
    WamplexError : when the image, the upscaler or a value cannot be used

    Examples
    --------
    >>> import numpy as np, wamplex
    >>> small = np.zeros((40, 60, 3), np.uint8)
    >>> wamplex.enlarge(small, factor=2, upscaler="lanczos").shape
    (80, 120, 3)
    """
    picture, restore = to_picture(image)
    work = Progress(progress)
    recipe = _recipe(picture, factor, upscaler, values, work)
    size = recipe.size(picture.width, picture.height)
    pixels = render(picture, recipe, Window(0, 0, size.width_px, size.height_px), work)
    work.report(1.0, "enlarged")
    return restore(pixels)


def assess(image: Any, *, progress: Listener | None = None) -> dict[str, Any]:
    """Measure an image: compression, noise, sharpness, faces and more, and what they suggest.

    Parameters
    ----------
    image : as in `enlarge`
    progress : is called with a fraction from 0 to 1 and what is being done

    Returns
    -------
    The values of ``wamplex assess --json``.

    Examples
    --------
    >>> import numpy as np, wamplex
    >>> wamplex.assess(np.full((64, 96, 3), 128, np.uint8))["width"]
    96
    """
    picture, _ = to_picture(image)
    work = Progress(progress)
    condition = measure_whole_condition(develop_picture(picture, Recipe(), work), work)
    return condition_values(condition, describe_condition(condition))


def readings(
    image: Any,
    factor: float = 2.0,
    *,
    upscaler: str = SUGGESTED,
    progress: Listener | None = None,
    **values: Any,
) -> dict[str, float]:
    """Measure the artifacts of an enlargement.

    Parameters
    ----------
    image : as in `enlarge`
    factor : 0.25 to 8
    upscaler : a key of `upscalers`; "suggested" measures the image and chooses
    progress : is called with a fraction from 0 to 1 and what is being done
    **values : of the upscaler by name

    Returns
    -------
    Means over up to twelve places, by the key of each reading; docs/readings.md explains them.

    Examples
    --------
    >>> import numpy as np, wamplex
    >>> edge = np.repeat(np.eye(64, dtype=np.float32)[..., None], 3, axis=2)
    >>> wamplex.readings(edge, upscaler="nearest")["ringing"]
    0.0
    """
    picture, _ = to_picture(image)
    work = Progress(progress)
    recipe = _recipe(picture, factor, upscaler, values, work)
    return readings_at(picture, recipe, sample_places(picture, recipe), work)


def compare(
    image: Any,
    factor: float = 4.0,
    upscalers: Sequence[str] = USUAL_UPSCALERS,
    *,
    truth: Any = None,
    progress: Listener | None = None,
    **values: Any,
) -> list[dict[str, object]]:
    """Shrink an image, enlarge it again with each upscaler, and compare the results with the image.

    Parameters
    ----------
    image : as in `enlarge`
    factor : by which it is shrunk and enlarged
    upscalers : keys of `upscalers`
    truth : a larger original of the image; it is then enlarged to the size of this instead
    progress : is called with a fraction from 0 to 1 and what is being done
    **values : of the upscalers by name

    Returns
    -------
    A row for each upscaler, the nearest to the truth first: PSNR in dB, SSIM, GMSD, CIEDE2000, readings.

    Examples
    --------
    >>> import numpy as np, wamplex
    >>> ramp = np.tile(np.linspace(0, 1, 96, dtype=np.float32), (96, 1))
    >>> [row["upscaler"] for row in wamplex.compare(ramp, 2, ["nearest", "lanczos"])]
    ['lanczos', 'nearest']
    """
    picture, _ = to_picture(image)
    question = make_question(picture, factor) if truth is None else question_from_truth(picture, to_picture(truth)[0])
    trials = [(find_upscaler(key).name, Recipe(base=_spec(key, values))) for key in upscalers]
    return as_rows(compare_answers(question, trials, Progress(progress)))


def upscalers() -> list[dict[str, str]]:
    """List the upscalers, your own networks too.

    Returns
    -------
    Key, name, kind and purpose of each.
    """
    return [upscaler_values(upscaler) for upscaler in known_upscalers()]


def _recipe(picture: Picture, factor: float, upscaler: str, values: dict[str, Any], progress: Progress) -> Recipe:
    if upscaler != SUGGESTED:
        return Recipe(base=_spec(upscaler, values)).replace(factor=factor)
    progress.report(0.0, "measuring")
    measured = measure_and_suggest(develop_picture(picture, Recipe(), progress), progress)
    key = measured.upscaler
    suggested = measured.values_for(key, find_upscaler(key).values)
    spec = TrialSpec(upscaler=key, values=suggested.replace(**values))
    return Recipe(base=spec, framing=Framing(shrink_first=measured.shrink_first)).replace(factor=factor)


def _spec(key: str, values: dict[str, Any]) -> TrialSpec:
    upscaler = find_upscaler(key)
    unknown = sorted(set(values) - set(upscaler.values))
    if unknown:
        there = ", ".join(upscaler.values) or "none"
        raise RecipeError(f"{upscaler.name} has no value “{unknown[0]}”. It has: {there}.")
    return TrialSpec(upscaler=key, values=Values().replace(**values))
