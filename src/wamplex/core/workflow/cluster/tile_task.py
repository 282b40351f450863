"""What a cluster worker does: render one tile from the source."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from importlib.metadata import version
from pathlib import Path

from wamplex.core.base.errors import SourceChangedError, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.deliver.deliver import describe_file
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.linear_light import linear_recipe
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.deliver.writers.tile_samples import tile_samples
from wamplex.core.intake.read import read_picture
from wamplex.core.model.assets import process_assets
from wamplex.core.model.opened_source import open_source
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.render.plan import Plan, plan
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.upscale.networks.manifest import networks_digest

_PICTURES, _PLANS = 2, 4


@dataclass(frozen=True)
class TileTask:
    """One tile of one file; travels as plain text and numbers.

    Attributes
    ----------
    digest : SHA-256 of the source, so that another file under its path is noticed
    parts : binary parts that the recipe means
    """

    source: str
    digest: str
    recipe: str
    delivery: str
    place: tuple[int, int, int, int]
    parts: tuple[bytes, ...] = ()


@dataclass(frozen=True)
class Refusal:
    """Why a tile cannot be made, in words: an error would only be tried by every worker in turn."""

    text: str


def make_tile(task: TileTask) -> Samples | Refusal:
    """Make a tile; runs on a worker."""
    try:
        for part in task.parts:
            process_assets().put(part)
        planned, delivery = _planned(task.source, task.digest, task.recipe, task.delivery)
        about = describe_file(planned.picture, planned.recipe, delivery)
        return tile_samples(planned, delivery, about, Window(*task.place), Progress())
    except Exception as error:
        return Refusal(user_message(error, "A worker has not enough memory for this picture."))


def describe_worker() -> str:
    """Program and networks of a worker, which must be the same everywhere."""
    return f"Wamplex {version('wamplex')}, networks {networks_digest()[:16]}"


@lru_cache(maxsize=_PLANS)
def _planned(source: str, digest: str, recipe: str, delivery: str) -> tuple[Plan, Delivery]:
    recipe_now, how = Recipe.from_json(recipe), Delivery.model_validate_json(delivery)
    picture = develop_picture(_picture(source, digest), recipe_now, Progress())
    if how.format == "dng":
        recipe_now = linear_recipe(picture, recipe_now, how)
    return plan(picture, recipe_now), how


@lru_cache(maxsize=_PICTURES)
def _picture(source: str, digest: str) -> Picture:
    file = Source.of(Path(source))
    if file.digest != digest:
        raise SourceChangedError(f"{file.path.name} is not the same file on a worker as here.")
    return read_picture(open_source(file))


def encode_task(recipe: Recipe, delivery: Delivery, parts: Sequence[bytes]) -> tuple[str, str, tuple[bytes, ...]]:
    """Encode recipe and delivery for a worker."""
    return recipe.model_dump_json(), delivery.model_dump_json(), tuple(parts)
