"""Decodes a file into a `Picture`: upright, float, with everything that must survive."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import pyvips
from numpy.typing import NDArray

from wamplex.core.base.errors import UnreadablePictureError
from wamplex.core.base.progress import Progress
from wamplex.core.base.window import Window
from wamplex.core.colour.profile_check import DAMAGED_NOTICE, is_usable, profile_fits
from wamplex.core.intake.decode_errors import DecodingErrors, explain_decode_error, is_harmless
from wamplex.core.intake.decoded import NO_PIXELS, Decoded
from wamplex.core.intake.decoder_choice import run_decoder
from wamplex.core.intake.decoders.image_file import ImageFile
from wamplex.core.intake.decoders.libvips import open_lazily, read_orientation
from wamplex.core.intake.decoders.tiff import open_with_tifffile
from wamplex.core.intake.probe import Probe, check_source_size, open_image_file, probe
from wamplex.core.intake.thumbnail_cache import SIDE_PX, load_thumbnail, save_thumbnail
from wamplex.core.model.development import Development
from wamplex.core.model.opened_source import OpenedSource, open_source
from wamplex.core.model.picture import FILE_START_BYTES, Metadata, Picture, ground_of
from wamplex.core.raw.raw_picture import read_developed_picture

_CMYK_NOTICE = "CMYK was converted to sRGB {through}; a print shop's CMYK can differ from what you see."


def read_picture(file: Path | OpenedSource, progress: Progress | None = None) -> Picture:
    """Decode a picture file, in another process where one was chosen (`decoder_choice`).

    Parameters
    ----------
    file : a path, or a source that was opened before
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    Pixels (H, W, C) float32 in 0..1 in the file's own profile, upright, with what must survive.

    Raises
    ------
    UnreadablePictureError : when the file is damaged or of an unknown kind
    SourceChangedError : when it is being written to
    Cancelled : when ``progress`` is cancelled
    """
    progress = progress or Progress()
    opened = file if isinstance(file, OpenedSource) else open_source(file)
    decoded = run_decoder(_decode_whole, opened, progress)
    progress.check()
    return replace(decoded.to_picture(), file_start=opened.read(FILE_START_BYTES))


def read_part(path: Path, window: Window, progress: Progress | None = None) -> Picture:
    """Decode a part of a picture file, which may be larger than what can be opened whole.

    Parameters
    ----------
    path : the file
    window : rectangle of the picture as it lies in its file
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    The part, as a picture.

    Raises
    ------
    UnreadablePictureError : when the file is damaged, of an unknown kind, or raw
    Cancelled : when ``progress`` is cancelled
    """
    return run_decoder(_decode_part, open_source(path), progress or Progress(), window).to_picture()


def read_small(path: Path | OpenedSource, side_px: int) -> tuple[NDArray[np.uint8], Probe]:
    """A small sRGB picture of a file, for the tray: (h, w, 3) uint8, at most ``side_px`` a side.

    Parameters
    ----------
    path : the file
    side_px : longest side, in pixels

    Returns
    -------
    The picture, and what its header says.

    Raises
    ------
    UnreadablePictureError : when the file is damaged or of an unknown kind
    """
    opened = path if isinstance(path, OpenedSource) else open_source(path)
    return run_decoder(_decode_small, opened, Progress(), side_px)


def read_tray_thumbnail(path: Path) -> tuple[NDArray[np.uint8], Probe]:
    """Read a small version of a picture, from the desktop's thumbnails where these are current.

    Parameters
    ----------
    path : the file

    Returns
    -------
    (h, w, 3) uint8 sRGB with at most 256 pixels a side, and the header.

    Raises
    ------
    UnreadablePictureError : when the file is damaged or of an unknown kind
    """
    opened = open_source(path)
    header = probe(opened)
    check_source_size(header)
    cached = load_thumbnail(header.source)
    if cached is not None:
        return cached, header
    pixels, header = read_small(opened, SIDE_PX)
    save_thumbnail(header.source, pixels)
    return pixels, header


def _thumbnail(file: ImageFile, side_px: int) -> pyvips.Image:
    options = {"height": side_px, "size": "down"}

    def made(**more: object) -> pyvips.Image:
        if file.shrinks:
            fail_on = "error"  # warnings are looked at when the picture is decoded whole
            return pyvips.Image.thumbnail(
                str(_opened(file).path), side_px, fail_on=fail_on, **options, **more
            ).copy_memory()
        return _upright(file.image()).thumbnail_image(side_px, **options, **more).copy_memory()

    try:
        return made(export_profile="srgb")
    except pyvips.Error:
        # A damaged profile is no reason to show nothing.
        return made()


def _decode_whole(opened: OpenedSource, progress: Progress) -> Decoded:
    header, file = open_image_file(opened)
    check_source_size(header)
    progress.check()
    try:
        return _decode(file, header, progress)
    except DecodingErrors as error:
        progress.check()
        return _decode_with_faults(error, file, header, progress)


def _decode_part(opened: OpenedSource, progress: Progress, window: Window) -> Decoded:
    header, file = open_image_file(opened)
    if file.raw is not None:
        raise UnreadablePictureError(f"{opened.name} must be developed first. Add it to the tray.")
    part = window.clipped(header.width, header.height)

    def cut() -> pyvips.Image:
        return _upright(file.image()).crop(part.x, part.y, part.width, part.height)

    try:
        return _decode(replace(file, image=cut), header, progress)
    except DecodingErrors as error:
        raise explain_decode_error(opened, header.kind, error) from error


def _decode_small(opened: OpenedSource, _progress: Progress, side_px: int) -> tuple[NDArray[np.uint8], Probe]:
    header, file = open_image_file(opened)
    check_source_size(header)
    try:
        image = _thumbnail(file, side_px)
        transparent = image.hasalpha()
        image = image.colourspace("srgb").cast("uchar")
        shape = (image.height, image.width, image.bands)
        pixels = np.ndarray(buffer=image.write_to_memory(), dtype=np.uint8, shape=shape)
        return _on_ground(pixels) if transparent else pixels, header
    except DecodingErrors as error:
        raise explain_decode_error(opened, header.kind, error) from error


def _on_ground(pixels: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Pixels with alpha as `Picture.ground` has them seen."""
    colour, alpha = pixels[..., :-1], pixels[..., -1]
    opaque = alpha[..., np.newaxis] / np.float32(255)
    ground = 255 * ground_of(colour, alpha, white=255.0)
    return np.rint(colour * opaque + np.float32(ground) * (1 - opaque)).astype(np.uint8)


def _opened(file: ImageFile) -> OpenedSource:
    assert file.opened is not None
    return file.opened


def _decode_with_faults(error: Exception, file: ImageFile, header: Probe, progress: Progress) -> Decoded:
    """The picture where a decoder stumbled over something beside its pixels; said, not passed over."""
    for way in _other_ways(error, file, header):
        try:
            decoded = _decode(way(), header, progress)
        except DecodingErrors:
            progress.check()
            continue
        notice = f"The {header.kind} has small faults outside its pixels; the picture is complete."
        picture = decoded.picture
        return replace(decoded, picture=replace(picture, notices=(*picture.notices, notice)))
    raise explain_decode_error(_opened(file), header.kind, error) from error


def _other_ways(error: Exception, file: ImageFile, header: Probe) -> tuple[Callable[[], ImageFile], ...]:
    path, kind = _opened(file).path, header.kind
    if not file.shrinks:  # it was not libvips that failed
        return ()
    if kind == "TIFF":
        return (lambda: open_with_tifffile(path),)
    if kind == "GIF" or is_harmless(error):
        return (lambda: replace(file, image=lambda: open_lazily(path, kind, "error")),)
    return ()


def _decode(file: ImageFile, header: Probe, progress: Progress) -> Decoded:
    if file.raw is not None:
        picture = read_developed_picture(file.raw(), Development(), progress)
        return Decoded(replace(picture, notices=file.notices, source=header.source))
    image = file.image()
    notices = list(file.notices)
    profile = header.profile
    metadata = Metadata(*(_blob(image, f"{block}-data") for block in ("exif", "xmp", "iptc")))
    if read_orientation(image) != 1:
        # Rows are decoded from top to bottom, and turning needs them in another order.
        with progress.interruptible(partial(image.set_kill, True)):
            image = _upright(image)
    if header.colour == "CMYK":
        image, notice = _from_cmyk(image, header)
        notices.append(notice)
        profile = None
    image = _plain(image, header)
    if header.pages > 1:
        notices.append(f"The file holds {header.pages} pages; the first one is used.")
    progress.check()
    samples, has_alpha = _samples(image, progress), bool(image.hasalpha())
    fitting, about_profile = _fitting(profile, samples.shape[2] - has_alpha)
    picture = Picture(
        pixels=NO_PIXELS,
        depth=16 if header.depth == 16 else 8,
        density_ppi=header.density_ppi,
        profile=fitting,
        metadata=metadata,
        notices=(*notices, *about_profile),
        source=header.source,
    )
    return Decoded(picture, samples, has_alpha)


def _upright(image: pyvips.Image) -> pyvips.Image:
    return image if read_orientation(image) == 1 else image.copy_memory().autorot()


def _plain(image: pyvips.Image, header: Probe) -> pyvips.Image:
    """Grey or RGB, 8 or 16 bit, with or without alpha; anything else is refused."""
    if image.format not in ("uchar", "ushort"):
        raise UnreadablePictureError(
            f"{header.path.name} stores its pixels in an unusual way ({image.format}). "
            "Save it with 8 or 16 bits per channel."
        )
    if image.interpretation in ("lab", "labs", "labq", "lch", "xyz", "yxy"):
        image = image.colourspace("srgb" if image.format == "uchar" else "rgb16")
    if image.bands > 4:
        raise UnreadablePictureError(
            f"{header.path.name} has {image.bands} channels. Save it as grey or RGB, without extra channels."
        )
    return image


def _from_cmyk(image: pyvips.Image, header: Probe) -> tuple[pyvips.Image, str]:
    depth = header.depth
    through = "through its own profile" if header.profile else "through a general profile, as the file has none"
    # With "cmyk" as the fallback, an embedded profile still comes first.
    image = image.icc_transform("srgb", embedded=True, input_profile="cmyk", depth=depth, intent="relative")
    return image, _CMYK_NOTICE.format(through=through)


def _samples(image: pyvips.Image, progress: Progress) -> NDArray[Any]:
    wide = image.format == "ushort"
    shape = (image.height, image.width, image.bands)
    with progress.interruptible(partial(image.set_kill, True)):
        samples = image.write_to_memory()
    return np.ndarray(buffer=samples, dtype=np.uint16 if wide else np.uint8, shape=shape)


def _blob(image: pyvips.Image, name: str) -> bytes | None:
    return bytes(image.get(name)) if image.get_typeof(name) else None


def _fitting(profile: bytes | None, channels: int) -> tuple[bytes | None, list[str]]:
    """The profile when it speaks of as many channels as the pixels have and can be used; and what to say."""
    # A profile of other channels is no damage: grey made from RGB keeps it, for one.
    if profile is None or (
        (profile_fits(profile, 1) or profile_fits(profile, 3)) and not profile_fits(profile, channels)
    ):
        return None, []
    return (profile, []) if is_usable(profile, channels) else (None, [DAMAGED_NOTICE])
