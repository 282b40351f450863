"""(picture, recipe, window) to pixels, by the plan of both: the only way that result pixels are made."""

from __future__ import annotations

from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.recipe import Recipe
from wamplex.core.render.plan import plan


def render(picture: Picture, recipe: Recipe, window: Window, progress: Progress | None = None) -> Pixels:
    """Pixels of the enlarged picture inside a window.

    Pure, and exact in the window: any window equals that window of the whole to 1/65535.

    Parameters
    ----------
    picture : the source
    recipe : the decisions; upscaler, values and factor count here
    window : rectangle of the result, in result pixels, inside the result
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (window.height, window.width, C) float32 in 0..1, in the picture's own profile; alpha, where the
    picture has it, is the last channel and not multiplied in.

    Raises
    ------
    SizeError : when the recipe's crop does not fit the picture
    RecipeError : when there is no such upscaler
    Cancelled : when ``progress`` is cancelled
    """
    return plan(picture, recipe).render(window, progress)


def render_sheet(picture: Picture, recipe: Recipe, window: Window, progress: Progress | None = None) -> Pixels:
    """Pixels of the file: the enlarged picture on its sheet, with margin, extension and wrap around it.

    Where the picture is, these are the pixels of `render`; without a sheet, nothing else is.

    Parameters
    ----------
    picture : the decoded picture
    recipe : all decisions about the picture
    window : rectangle of the file, in pixels, inside it
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    (window.height, window.width, C) float32 in 0..1, as `render`.
    """
    return plan(picture, recipe).on_sheet.render(window, progress or Progress())
