"""The folder of guests: add, find, list and remove."""

from __future__ import annotations

import base64
import datetime
import hashlib
import os
from contextlib import suppress
from functools import lru_cache
from pathlib import Path

import numpy as np
from pydantic import ValidationError

from wamplex.core.base.atomic_files import discard, remove_leftovers, write_atomically
from wamplex.core.base.errors import FolderError, RecipeError, SizeError
from wamplex.core.base.parallel_rows import run_parallel_rows
from wamplex.core.base.progress import Progress
from wamplex.core.colour.convert import to_srgb
from wamplex.core.colour.luma import luma_plane
from wamplex.core.geometry.size import LARGEST_FACTOR, LEAST_FACTOR
from wamplex.core.guests.guest import PREFIX, Guest, GuestNote
from wamplex.core.guests.registration import estimate_shift
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.settings import guests_dir

# Proportions may differ by this much, as rounding to whole pixels makes them.
_LARGEST_STRETCH = 0.02
# Less than this cannot be seen, and resampling would soften.
_LEAST_SHIFT_PX = 0.02


def add_guest(path: Path, picture: Picture, progress: Progress | None = None) -> Guest:
    """Read a file that shows an enlargement of a picture, align it, and store its pixels.

    Parameters
    ----------
    path : the file
    picture : the source, whole and upright, from a file
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The guest.

    Raises
    ------
    SizeError : when the file cannot be an enlargement of the picture
    UnreadablePictureError : when it cannot be read
    """
    progress = progress or Progress()
    assert picture.source is not None
    shown = read_picture(path, progress=progress)
    across, down = shown.width / picture.width, shown.height / picture.height
    if abs(across / down - 1) > _LARGEST_STRETCH:
        raise SizeError(
            f"{path.name} has {shown.width} × {shown.height} px, other proportions than the picture's "
            f"{picture.width} × {picture.height}. A guest must show the whole picture as it lies in its file."
        )
    if not max(LEAST_FACTOR, 1.0) <= across <= LARGEST_FACTOR:
        raise SizeError(
            f"{path.name} is {across:.2f} times as wide as the picture; a guest has 1 to "
            f"{LARGEST_FACTOR:g} times the width."
        )
    progress.report(0.4, f"aligning {path.name}")
    pixels = _as_many_channels(shown, picture)
    fits = estimate_shift(_even(picture), _even(shown))
    shift = fits if max(abs(n) for n in fits) >= _LEAST_SHIFT_PX else (0.0, 0.0)
    progress.report(0.7, f"keeping {path.name}")
    profile = shown.profile if pixels is shown.pixels else None
    note = GuestNote(
        file=path.name,
        added_on=datetime.date.today().isoformat(),
        source=picture.source.digest,
        source_width=picture.width,
        source_height=picture.height,
        width=shown.width,
        height=shown.height,
        right=round(shift[1], 4),
        down=round(shift[0], 4),
        profile=None if profile is None else base64.b64encode(profile).decode(),
    )
    assert shown.source is not None
    return _store_pixels(note, shown.source.digest, pixels)


def find_guest(key: str) -> Guest:
    """Find a stored guest.

    Parameters
    ----------
    key : key of the upscaler

    Returns
    -------
    The guest.

    Raises
    ------
    RecipeError : when it is not there
    """
    note = guests_dir() / f"{key}.json"
    try:
        return _read(note, note.stat().st_mtime_ns)
    except (OSError, ValidationError):
        raise RecipeError(
            "A guest of this picture is not on this computer. Strike that trial, or add the file again."
        ) from None


def stored_guests() -> tuple[Guest, ...]:
    """All stored guests, the oldest first.

    Returns
    -------
    Guests.
    """
    guests = []
    for note in guests_dir().glob(f"{PREFIX}*.json"):
        with suppress(RecipeError, OSError):
            guests.append((note.stat().st_mtime_ns, find_guest(note.stem)))
    return tuple(guest for _, guest in sorted(guests, key=lambda pair: (pair[0], pair[1].key)))


def guests_size_bytes(guest: Guest) -> int:
    """Size of the stored pixels of a guest.

    Parameters
    ----------
    guest : the guest

    Returns
    -------
    Bytes.
    """
    return guest.path.stat().st_size if guest.path.exists() else 0


def remove_guest(key: str) -> None:
    """Remove a guest; its note first, so that a partial guest is never listed.

    Parameters
    ----------
    key : key of the upscaler

    Raises
    ------
    OSError : when the folder cannot be written to
    """
    note = guests_dir() / f"{key}.json"
    note.unlink(missing_ok=True)
    note.with_suffix(".npy").unlink(missing_ok=True)


@lru_cache(maxsize=64)
def _read(note: Path, changed: int) -> Guest:
    return Guest(note.stem, note.with_suffix(".npy"), GuestNote.model_validate_json(note.read_bytes()))


def _store_pixels(note: GuestNote, digest: str, pixels: Pixels) -> Guest:
    """The same file for the same picture is the same guest; its note comes last."""
    key = PREFIX + hashlib.sha256(f"{digest} {note.source}".encode()).hexdigest()[:16]
    folder = guests_dir()
    path = folder / f"{key}.npy"
    partial = path.with_name(f".{path.name}.{os.getpid()}-0.partial")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        remove_leftovers(path)
        stored = np.lib.format.open_memmap(partial, mode="w+", dtype=np.uint16, shape=pixels.shape)
        # Room for all of it first: a mapped file on a full disk would end the program with a signal.
        with partial.open("r+b") as file:
            os.posix_fallocate(file.fileno(), 0, os.fstat(file.fileno()).st_size)

        def rows(some: slice) -> None:
            stored[some] = np.rint(pixels[some] * np.float32(65535)).astype(np.uint16)

        run_parallel_rows(len(pixels), pixels[:1].nbytes, rows)
        stored.flush()
        os.replace(partial, path)
        write_atomically(folder / f"{key}.json", note.model_dump_json(indent=1).encode())
    except OSError as error:
        discard(partial)
        reason = (error.strerror or str(error)).lower()
        raise FolderError(f"The guest cannot be stored in {folder}: {reason}.") from error
    return Guest(key, path, note)


def _as_many_channels(shown: Picture, picture: Picture) -> Pixels:
    """Grey where the picture is; a grey guest of a picture in colour stays grey until it is shown."""
    if picture.pixels.shape[2] == 1 and shown.pixels.shape[2] == 3:
        return luma_plane(to_srgb(shown.pixels, shown))[..., np.newaxis]
    return shown.pixels


def _even(picture: Picture) -> Picture:
    """Alone its pixels matter for how it lies."""
    return Picture(picture.pixels)
