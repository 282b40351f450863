"""The project file: which pictures are taken in, and every decision about each.

A ``.wamplex`` file is a zip archive. ``project.json`` in it holds a `Project`; masks will lie beside it as
PNG. Its format is described in ``docs/project-format.md``.
"""

from __future__ import annotations

import io
import os
import zipfile
from pathlib import Path
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from wamplex.core.checked import Checked
from wamplex.core.errors import ProjectError
from wamplex.core.files import write_whole
from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.recipe import Delivery
from wamplex.core.upscale.values import Values

SUFFIX = ".wamplex"
FORMAT: Literal["wamplex-project"] = "wamplex-project"
VERSION = 1
_JSON_NAME = "project.json"
_LARGEST_JSON_BYTES = 50_000_000


class SavedTrial(Checked):
    """One trial; ``values`` None stands for the suggested ones, and ``reason`` says why it was suggested."""

    model_config = ConfigDict(extra="ignore")

    letter: str = Field(pattern="^[A-H]$")
    upscaler: str
    struck: bool = False
    values: Values | None = None
    reason: str = ""


class SavedSpot(Checked):
    """One spot, at shares of the picture's width and height."""

    model_config = ConfigDict(extra="ignore")

    x: float = Field(ge=0, le=1)
    y: float = Field(ge=0, le=1)
    kind: str
    name: str


class SavedPicture(Checked):
    """One picture of the tray.

    ``path`` is absolute; ``beside`` is the way from the project file to it, which still holds when both were
    moved.
    """

    model_config = ConfigDict(extra="ignore")

    path: Path
    beside: str | None = None
    factor: float
    density_ppi: float
    trials: tuple[SavedTrial, ...] = ()
    active: str = "A"
    stamped: str | None = None
    spots: tuple[SavedSpot, ...] = ()
    framing: Framing = Framing()
    sheet: Sheet | None = None
    seen_from_mm: float = 500.0


class Project(Checked):
    """Everything a project file says."""

    model_config = ConfigDict(extra="ignore")

    format: Literal["wamplex-project"] = FORMAT
    version: int = VERSION
    pictures: tuple[SavedPicture, ...] = ()
    selected: int = 0
    delivery: Delivery = Delivery()
    tally: dict[str, int] = Field(default_factory=dict)


def save_project(project: Project, path: Path, *, durable: bool = True) -> None:
    """Write a project file, whole or not at all.

    Parameters
    ----------
    durable : wait for the disk, which may take a while

    Raises
    ------
    ProjectError : when it cannot be written
    """
    path = path.absolute()
    pictures = tuple(
        picture.having(beside=os.path.relpath(picture.path, path.parent)) for picture in project.pictures
    )
    text = project.having(pictures=pictures).model_dump_json(indent=1)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(_JSON_NAME, text)
    try:
        write_whole(path, buffer.getvalue(), durable=durable)
    except OSError as error:
        raise ProjectError(f"{path.name} cannot be written: {error.strerror or error}.") from error


def open_project(path: Path) -> Project:
    """Read a project file; pictures that were moved along with it are found beside it.

    Raises
    ------
    ProjectError : when it is no project file, is damaged, or was made by a newer version
    """
    try:
        with zipfile.ZipFile(path) as archive:
            if archive.getinfo(_JSON_NAME).file_size > _LARGEST_JSON_BYTES:
                raise ProjectError(f"{path.name} is too large to be a project.")
            text = archive.read(_JSON_NAME).decode()
    except OSError as error:
        raise ProjectError(f"{path.name} cannot be read: {error.strerror or error}.") from error
    except (zipfile.BadZipFile, KeyError, UnicodeDecodeError, RuntimeError, EOFError) as error:
        raise ProjectError(f"{path.name} is not a Wamplex project, or is damaged.") from error
    except Exception as error:  # zlib's own error has no public base
        raise ProjectError(f"{path.name} is damaged.") from error
    return _read(text, path)


def _read(text: str, path: Path) -> Project:
    try:
        version = _Version.model_validate_json(text)
    except ValidationError as error:
        raise ProjectError(f"{path.name} is not a Wamplex project, or is damaged.") from error
    if version.version > VERSION:
        raise ProjectError(
            f"{path.name} was made by a newer version of Wamplex (project version {version.version}; this "
            f"one reads up to {VERSION}). Open it with that version."
        )
    try:
        project = Project.model_validate_json(text)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])
        raise ProjectError(f"{path.name} holds a value that cannot be used: {place}.") from error
    pictures = tuple(_found(picture, path.absolute().parent) for picture in project.pictures)
    return project.having(pictures=pictures)


class _Version(BaseModel):
    format: Literal["wamplex-project"]
    version: int


def _found(picture: SavedPicture, folder: Path) -> SavedPicture:
    """Where the picture is now, if it is where it was or moved along."""
    if picture.path.exists() or picture.beside is None:
        return picture
    for candidate in (folder / picture.beside, folder / picture.path.name):
        if candidate.exists():
            return picture.having(path=Path(os.path.normpath(candidate)))
    return picture
