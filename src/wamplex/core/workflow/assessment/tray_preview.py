"""What the tray shows of a file: header, thumbnail, shot information."""

from __future__ import annotations

from pathlib import Path
from typing import NamedTuple

from wamplex.core.intake.compressed_thumbnail import CompressedThumbnail, compress_thumbnail
from wamplex.core.intake.probe import Probe
from wamplex.core.intake.read import read_tray_thumbnail
from wamplex.core.workflow.recipe_transfer.similar_shots import ShotInfo, read_shot_info

NO_MEMORY = "There is not enough memory to read this picture."


class TrayPreview(NamedTuple):
    """What the file says, its small picture, and when and with what it was taken, where it says so."""

    header: Probe
    thumbnail: CompressedThumbnail
    shot_info: ShotInfo | None


def make_tray_preview(path: Path) -> TrayPreview:
    """Look at a file.

    Raises
    ------
    UnreadablePictureError : when it is damaged or of an unknown kind
    """
    pixels, header = read_tray_thumbnail(path)
    return TrayPreview(header, compress_thumbnail(pixels), read_shot_info(path))
