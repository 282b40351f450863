"""What the tray shows of a file."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from wamplex.core.intake.compressed_thumbnail import PackedThumbnail, packed
from wamplex.core.intake.probe import Probe
from wamplex.core.intake.read import small_of_tray
from wamplex.core.workflow.recipe_transfer.similar_shots import Taken, taken

NO_MEMORY = "There is not enough memory to read this picture."


class Small(NamedTuple):
    """What the file says, its small picture, and when and with what it was taken, where it says so."""

    found: Probe
    thumbnail: PackedThumbnail
    taken: Taken | None


def small_of(path: Path) -> Small:
    """Look at a file.

    Raises
    ------
    UnreadablePictureError : when it is damaged or of an unknown kind
    """
    pixels, found = small_of_tray(path)
    return Small(found, packed(pixels), taken(path))
