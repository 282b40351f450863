"""Requests that models send to workers, for tiles and readings. Neither side knows the other."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.base.window import Window
from wamplex.core.colour.screen_view import PLAIN, ScreenView
from wamplex.core.model.finish_values import Mask
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source

TILE_PX = 512


@dataclass(frozen=True)
class Overlay:
    """What is shown instead of the plain result.

    Attributes
    ----------
    trace : key of a reading that is drawn over it
    minus : recipe of another result that is subtracted
    mask : of Finish, shown by itself
    among : recipes of several trials, of which it is drawn where they disagree
    outside : whether colours that the proof's printer has not are drawn over it
    """

    trace: str | None = None
    minus: Recipe | None = None
    mask: Mask | None = None
    among: tuple[Recipe, ...] = ()
    outside: bool = False


@dataclass(frozen=True)
class TileKey:
    """One tile: ``TILE_PX`` screen pixels a side, each the mean of ``reduce`` x ``reduce`` result pixels.

    Attributes
    ----------
    place : the very result pixels, instead of a column and row of the grid of tiles
    view : screen and proof it is shown with; differences and traces are measured, and heed none
    """

    source: Source
    recipe: Recipe
    reduce: int
    column: int
    row: int
    overlay: Overlay = Overlay()
    place: Window | None = None
    view: ScreenView = PLAIN

    def window(self, width: int, height: int) -> Window:
        """The result pixels it covers, in a result of this size."""
        if self.place is not None:
            return self.place
        side = TILE_PX * self.reduce
        return Window(self.column * side, self.row * side, side, side).clipped(width, height)


@dataclass(frozen=True)
class ReadingsKey:
    """One trial of one picture, at its spots or, without places, over the whole picture."""

    source: Source
    recipe: Recipe
    places: tuple[tuple[float, float], ...] = ()
