"""Renders the cells that the proof sheet and the paper strip are made of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from wamplex.core.analysis.content.spots import Spot
from wamplex.core.base.array_types import Rgb8
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.icc import profile_name
from wamplex.core.model.finish_values import Finish
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.value_table import ValueName, value_text
from wamplex.core.preview.result_preview import preview
from wamplex.core.trial.registry import find_upscaler

_ALWAYS: tuple[ValueName, ...] = ("noise", "compression", "texture_strength")
_IF_SET: tuple[ValueName, ...] = ("crispness", "self_ensemble", "back_projection_levels", "keep_source")


@dataclass(frozen=True)
class Column:
    """One trial: its letter and recipe."""

    letter: str
    recipe: Recipe

    @property
    def name(self) -> str:
        """The name of its upscaler, and whether it is finished."""
        name = find_upscaler(self.recipe.upscaler).name
        return name if self.recipe == self.recipe.unfinished else f"{name}, finished"

    @property
    def values_text(self) -> str:
        """The values that count, in short."""
        values, heeded = self.recipe.values, find_upscaler(self.recipe.upscaler).values
        shown = [name for name in _ALWAYS if name in heeded]
        shown += [name for name in _IF_SET if name in heeded and getattr(values, name) not in (None, False, 0)]
        parts = [value_text(name, getattr(values, name)).lower() for name in shown]
        return " · ".join([*parts, *finish_text(self.recipe.finish)])


def finish_text(finish: Finish) -> list[str]:
    """Describe Finish in short.

    Parameters
    ----------
    finish : everything after the stamped trial

    Returns
    -------
    One text per part.
    """
    layers = sum(layer.on for layer in finish.layers)
    parts = [f"{layers} layer{'s' if layers > 1 else ''}"] if layers else []
    parts += ["trial for faces"] if finish.faces is not None and finish.faces.source_trial is not None else []
    parts += [f"tone of {finish.tone.reference}"] if finish.tone is not None else []
    parts += [f"sharpened {finish.sharpen.amount:g} %"] if finish.sharpen is not None else []
    return parts + ([f"grain {finish.grain.amount:g}"] if finish.grain is not None else [])


@dataclass(frozen=True)
class Cells:
    """All spots by all trials; ``pixels`` by spot, then by trial, (h, w, 3) uint8 sRGB each.

    Attributes
    ----------
    profile : of the picture, in words
    """

    name: str
    factor: float
    density_ppi: float
    spots: tuple[Spot, ...]
    columns: tuple[Column, ...]
    pixels: tuple[tuple[Rgb8, ...], ...]
    profile: str = "sRGB"


def render_cells(
    picture: Picture,
    name: str,
    spots: Sequence[Spot],
    columns: Sequence[Column],
    width_px: int,
    height_px: int,
    progress: Progress | None = None,
) -> Cells:
    """Every spot by every trial, cells of this size at most, the very pixels that a file would hold.

    Parameters
    ----------
    picture : the decoded picture
    name : file name of the picture
    spots : rows of the sheet
    columns : trials
    width_px : columns of a cell
    height_px : rows of a cell
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    Rows of spots, columns of trials, (h, w, 3) uint8 sRGB each.
    """
    progress = progress or Progress()
    rows = []
    for number, spot in enumerate(spots):
        cells = []
        for column_number, column in enumerate(columns):
            done = (number * len(columns) + column_number) / (len(spots) * len(columns))
            progress.report(done, f"{spot.name} by {column.name}")
            window = _window(picture, column.recipe, spot, width_px, height_px)
            cells.append(preview(picture, column.recipe, window, progress=progress))
        rows.append(tuple(cells))
    recipe = columns[0].recipe
    profile = "sRGB" if picture.profile is None else profile_name(picture.profile)
    return Cells(name, recipe.factor, recipe.density_ppi, tuple(spots), tuple(columns), tuple(rows), profile)


def _window(picture: Picture, recipe: Recipe, spot: Spot, width_px: int, height_px: int) -> Window:
    size = recipe.size(picture.width, picture.height)
    width, height = min(width_px, size.width_px), min(height_px, size.height_px)
    x = min(max(round(spot.x * size.width_px - width / 2), 0), size.width_px - width)
    y = min(max(round(spot.y * size.height_px - height / 2), 0), size.height_px - height)
    return Window(x, y, width, height)
