"""A file that another program hands over, and gets back enlarged."""

from __future__ import annotations

import os
import secrets
import shutil
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from wamplex.core.base.errors import DeliveryError
from wamplex.core.base.progress import Progress
from wamplex.core.colour.icc import ProfileChoice
from wamplex.core.deliver.deliver import deliver
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import FileFormat
from wamplex.core.deliver.request.naming import free_path
from wamplex.core.intake.probe import Probe
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe

# Kinds that can be written as they were read; any other is refused: the other program waits for its own.
_KINDS: dict[str, FileFormat] = {"TIFF": "tiff", "PNG": "png", "JPEG": "jpeg", "WebP": "webp"}
_HIGH_QUALITY = 95


@dataclass(frozen=True)
class HandOver:
    """What was agreed with the other program.

    Attributes
    ----------
    file : that is handed over
    to : where the result goes; None in its place
    depth : bits per channel, None as they are
    """

    file: Path
    to: Path | None = None
    depth: Literal[8, 16] | None = None
    profile: ProfileChoice = "source"

    @property
    def target(self) -> Path:
        """Where the other program looks for the result."""
        return self.to or self.file


def agreed_delivery(hand_over: HandOver, header: Probe) -> Delivery:
    """The kind of file that is handed back.

    Raises
    ------
    DeliveryError : when it cannot be written as it was read
    """
    kind = _KINDS.get(header.kind)
    if kind is None:
        raise DeliveryError(
            f"{header.path.name} is {header.kind}, which cannot be handed back. Hand over a TIFF instead."
        )
    depth: Literal[8, 16] = hand_over.depth or (16 if header.depth == 16 else 8)
    return Delivery(format=kind, depth=depth, profile=hand_over.profile, quality=_HIGH_QUALITY)


def hand_back(
    picture: Picture, recipe: Recipe, hand_over: HandOver, delivery: Delivery, progress: Progress
) -> Path | None:
    """Put the result where it is waited for, whole or not at all; what was there is kept under another name.

    Returns
    -------
    What was there, None where nothing was.

    Raises
    ------
    SourceChangedError : when the file was written to meanwhile; nothing has changed then
    DeliveryError, SizeError : when it cannot be written; nothing has changed then
    Cancelled : when ``progress`` is cancelled; nothing has changed then
    """
    target = hand_over.target
    folder = target.parent / f".wamplex-{secrets.token_hex(6)}"
    try:
        done = deliver(picture, recipe, delivery.replace(folder=folder), progress)
        if picture.source is not None:
            picture.source.check()  # lest the other program's own change is lost
        backup = None
        if target.exists():
            backup = free_path(target.with_name(f"{target.stem}-before{target.suffix}"))
            shutil.copy2(target, backup)
        os.replace(done.path, target)
        return backup
    except OSError as error:
        raise DeliveryError(f"{target.name} cannot be replaced: {(error.strerror or str(error)).lower()}.") from error
    finally:
        shutil.rmtree(folder, ignore_errors=True)
