"""The order for one file: the only way from a picture and its decisions to a job."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.naming import planned_path
from wamplex.core.deliver.request.size_limits import check_size, expected_bytes
from wamplex.core.geometry.pages import divide_into_pages
from wamplex.core.geometry.sheet import file_pixels
from wamplex.core.intake.formats import RAW
from wamplex.core.intake.probe import Probe
from wamplex.core.model.development import Development
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source


class Order(NamedTuple):
    """A file to be written.

    Attributes
    ----------
    planned : the file's path if no other file has it by then
    expected_bytes : about the size of the file
    """

    source: Source
    recipe: Recipe
    delivery: Delivery
    planned: Path
    expected_bytes: int


def create_order(header: Probe, recipe: Recipe, delivery: Delivery) -> Order:
    """Check the decisions about a picture and turn them into an order.

    The window, the command line, the folder watch and the hand-over all order here, so that the same picture
    with the same decisions gives the same file.

    Parameters
    ----------
    header : of the picture
    recipe : all decisions about it; see `transfer_recipe` for the recipe of another picture
    delivery : kind of file, folder and name

    Returns
    -------
    The order; the recipe in it is normalised.

    Raises
    ------
    SizeError : when the format cannot hold a file of this size
    DeliveryError : when no file name follows from the delivery
    """
    development = _development(header, recipe)
    if development != recipe.development:
        recipe = recipe.replace(development=development)
    size = recipe.size(header.width, header.height)
    if page_count(header, recipe, delivery) == 1:
        check_size(size, delivery, recipe.sheet)
    planned = planned_path(header.path, recipe, delivery, size)
    channels = (1 if header.colour == "grey" else 3) + header.alpha
    return Order(header.source, recipe, delivery, planned, expected_bytes(size, delivery, channels, recipe.sheet))


def page_count(header: Probe, recipe: Recipe, delivery: Delivery) -> int:
    """Number of files or pages that the print is divided into.

    Parameters
    ----------
    header : the picture's header
    recipe : all decisions about the picture
    delivery : kind of file, folder and name

    Returns
    -------
    1 or more.
    """
    columns, rows = file_pixels(recipe.size(header.width, header.height), recipe.sheet)
    return len(divide_into_pages(columns, rows, recipe.density_ppi, delivery.pages))


def _development(header: Probe, recipe: Recipe) -> Development | None:
    """Only a raw file is developed; None stands for as shot."""
    return recipe.development if header.kind == RAW and recipe.development != Development() else None
