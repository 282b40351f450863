"""The project file: which pictures are taken in, and every decision about each.

A ``.wamplex`` file is a zip archive. ``project.json`` in it holds a `Project`, ``assets/`` the binary parts
that its recipes mean by their digest. Its format is described in ``docs/project-format.md``.
"""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path
from typing import Any, Literal

from pydantic import Field, ValidationError

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.base.errors import ProjectError, SizeError, UnreadablePictureError
from wamplex.core.base.frozen_model import FrozenModel, describe_validation_error
from wamplex.core.base.regular_files import open_regular_file
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.model.assets import Assets
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.upscale_values import Values
from wamplex.core.workflow.projects.migration import drop_unknown_fields, migrate_project

SUFFIX = ".wamplex"
PROJECT_FORMAT: Literal["wamplex-project"] = "wamplex-project"
VERSION: Literal[3] = 3
_JSON_NAME, _ASSETS = "project.json", "assets/"
_LARGEST_JSON_BYTES, _LARGEST_ASSET_BYTES = 50_000_000, 500_000_000
MOST_PICTURES, MOST_SPOTS = 10_000, 200


class SavedTrial(FrozenModel):
    """One trial; ``values`` None stands for the suggested ones, and ``reason`` says why it was suggested."""

    letter: str = Field(pattern="^[A-H]$")
    upscaler: str
    struck: bool = False
    values: Values | None = None
    reason: str = ""


class SavedSpot(FrozenModel):
    """One spot, at shares of a width and a height."""

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    kind: str
    name: str


class SavedPicture(FrozenModel):
    """One picture of the tray.

    ``path`` is absolute; ``beside`` is the way from the project file to it, which still holds when both were
    moved. ``recipe`` is what would be delivered. ``trials`` and ``spots`` are None where nothing is decided
    about them. Spots lie at shares of the source, or (``spots_in`` "framed", in old projects) of what the
    framing leaves.
    """

    path: Path
    relative_path: str | None = None
    recipe: Recipe = Recipe()
    trials: tuple[SavedTrial, ...] | None = Field(default=None, max_length=26)
    active: str = "A"
    stamped: str | None = None
    spots: tuple[SavedSpot, ...] | None = Field(default=None, max_length=MOST_SPOTS)
    spots_in: Literal["source", "framed"] = "source"
    viewing_distance_mm: float = Field(default=500.0, gt=0, le=1e6)


class Project(FrozenModel):
    """Everything a project file says."""

    format: Literal["wamplex-project"] = PROJECT_FORMAT
    version: Literal[3] = VERSION
    pictures: tuple[SavedPicture, ...] = Field(default=(), max_length=MOST_PICTURES)
    selected: int = 0
    delivery: Delivery = Delivery()
    blind_choices: dict[str, int] = Field(default_factory=dict)


def save_project(project: Project, path: Path, assets: Assets | None = None, *, durable: bool = True) -> None:
    """Write a project file, whole or not at all.

    Parameters
    ----------
    project : the project
    path : a .wamplex file
    assets : where the binary parts are that its recipes mean
    durable : wait for the disk, which may take a while

    Raises
    ------
    ProjectError : when it cannot be written
    """
    path = path.absolute()
    text = _written(project, path.parent)
    meant = [ref for picture in project.pictures for ref in picture.recipe.finish.parts]
    buffer, parts = io.BytesIO(), (assets or Assets()).some(meant)
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(_JSON_NAME, text)
        for ref in parts:
            archive.writestr(_ASSETS + ref.digest, parts.get(ref), zipfile.ZIP_STORED)  # packed already
    try:
        write_atomically(path, buffer.getvalue(), durable=durable)
    except OSError as error:
        raise ProjectError(f"{path.name} cannot be written: {error.strerror or error}.") from error


def _written(project: Project, folder: Path) -> str:
    """The project as JSON, for a file in a folder.

    Picture by picture: a thousand written in one call keep Python's lock, and with it the window, for 30 to
    60 ms.
    """
    pictures = (
        picture.replace(relative_path=os.path.relpath(picture.path, folder)).model_dump_json()
        for picture in project.pictures
    )
    listed = "[\n  " + ",\n  ".join(pictures) + "\n ]" if project.pictures else "[]"
    # Nothing that a user has written comes before the pictures.
    return project.replace(pictures=()).model_dump_json(indent=1).replace("[]", listed, 1)


def open_project(path: Path) -> tuple[Project, Assets]:
    """Read a project file; pictures that were moved along with it are found beside it.

    Parameters
    ----------
    path : a .wamplex file

    Returns
    -------
    What it says, and the binary parts that lie in it.

    Raises
    ------
    ProjectError : when it is no project file, is damaged, or was made by a newer version
    """
    assets = Assets()
    try:
        with os.fdopen(open_regular_file(path), "rb") as file, zipfile.ZipFile(file) as archive:
            text = _member(archive, _JSON_NAME, _LARGEST_JSON_BYTES, path).decode()
            for name in archive.namelist():
                if name.startswith(_ASSETS):
                    data = _member(archive, name, _LARGEST_ASSET_BYTES, path)
                    if assets.put(data).digest != name[len(_ASSETS) :]:
                        raise ProjectError(f"{path.name} is damaged.")
    except UnreadablePictureError as error:
        raise ProjectError(str(error)) from error
    except OSError as error:
        raise ProjectError(f"{path.name} cannot be read: {error.strerror or error}.") from error
    except (zipfile.BadZipFile, KeyError, UnicodeDecodeError, RuntimeError, EOFError) as error:
        raise ProjectError(f"{path.name} is not a Wamplex project, or is damaged.") from error
    except ProjectError:
        raise
    except Exception as error:  # zlib's own error has no public base
        raise ProjectError(f"{path.name} is damaged.") from error
    return _read(text, path), assets


def _member(archive: zipfile.ZipFile, name: str, max_bytes: int, path: Path) -> bytes:
    """A part of the archive; what it says of its size may be a lie, so no more than the bound is read."""
    with archive.open(name) as file:
        data = file.read(max_bytes + 1)
    if len(data) > max_bytes:
        raise ProjectError(f"{path.name} is too large to be a project.")
    return data


def _read(text: str, path: Path) -> Project:
    fields = _fields(text, path)
    listed = fields.get("pictures")
    if isinstance(listed, list) and len(listed) > MOST_PICTURES:
        raise ProjectError(f"{path.name} lists more than {MOST_PICTURES} pictures.")
    version = fields["version"]
    if version > VERSION:
        raise ProjectError(
            f"{path.name} was made by a newer version of Wamplex (project version {version}; this "
            f"one reads up to {VERSION}). Open it with that version."
        )
    try:
        project = drop_unknown_fields(Project, migrate_project(fields))
    except ValidationError as error:
        raise ProjectError(
            f"{path.name} holds a value that cannot be used: {describe_validation_error(error)}."
        ) from error
    try:
        _ = [picture.recipe.sheet.area_mm for picture in project.pictures if picture.recipe.sheet is not None]
    except SizeError as error:
        raise ProjectError(f"{path.name} holds an impossible sheet. {error}") from error
    pictures = tuple(_locate(picture, path.absolute().parent) for picture in project.pictures)
    return project.replace(pictures=pictures)


def _fields(text: str, path: Path) -> dict[str, Any]:
    try:
        fields = parse_json(text)
        if fields["format"] == PROJECT_FORMAT and isinstance(fields["version"], int):
            return dict(fields)
    except (ValueError, TypeError, KeyError):
        pass
    raise ProjectError(f"{path.name} is not a Wamplex project, or is damaged.")


def _locate(picture: SavedPicture, folder: Path) -> SavedPicture:
    """Where the picture is now, if it is where it was or moved along."""
    if os.path.exists(picture.path) or picture.relative_path is None:
        return picture
    for candidate in (folder / picture.relative_path, folder / picture.path.name):
        if os.path.exists(candidate):
            return picture.replace(path=Path(os.path.normpath(candidate)))
    return picture
