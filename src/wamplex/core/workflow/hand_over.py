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
from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import FILE_FORMATS, FileFormat
from wamplex.core.deliver.request.naming import free_path
from wamplex.core.intake.probe import Probe
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.workflow.orders.order import create_order
from wamplex.core.workflow.queue.journal import Journal
from wamplex.core.workflow.queue.recovery import HAND_OVER_PREFIX
from wamplex.core.workflow.queue.run_job import run_job

# Kinds that can be written as they were read; any other is refused: the other program waits for its own.
_KINDS: dict[str, FileFormat] = {info.label: key for key, info in FILE_FORMATS.items()}
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
        """Path where the other program expects the result."""
        return self.to or self.file


def agreed_delivery(hand_over: HandOver, header: Probe) -> Delivery:
    """The format in which a file is handed back.

    Parameters
    ----------
    hand_over : what was agreed with the other program
    header : the picture's header

    Returns
    -------
    Kind of file, depth and profile.

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
    header: Probe, picture: Picture, recipe: Recipe, hand_over: HandOver, journal: Journal, progress: Progress
) -> Path | None:
    """Put the result where the other program expects it, whole or not at all.

    A file that is there already is copied to another name first.

    Parameters
    ----------
    header : the picture's header
    picture : the decoded picture
    recipe : all decisions about the picture
    hand_over : what was agreed with the other program
    journal : the list of jobs
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    That copy, None where no file was there.

    Raises
    ------
    SourceChangedError : when the file was written to meanwhile; nothing has changed then
    DeliveryError, SizeError : when it cannot be written; nothing has changed then
    Cancelled : when ``progress`` is cancelled; nothing has changed then
    """
    target = hand_over.target
    folder = target.parent / f"{HAND_OVER_PREFIX}{secrets.token_hex(6)}"
    try:
        order = create_order(header, recipe, agreed_delivery(hand_over, header).replace(folder=folder))
        (job,) = journal.add([order])
        done = run_job(journal, job, progress, picture, final_folder=target.parent)
        header.source.check()  # lest the other program's own change is lost
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
