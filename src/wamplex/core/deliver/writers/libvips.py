"""Writes PNG, JPEG and WebP (libvips), streaming."""

from __future__ import annotations

import errno
from collections.abc import Callable
from pathlib import Path

import pyvips

from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Bands
from wamplex.core.deliver.writers.band_stream import BandStream
from wamplex.core.deliver.writers.half_chroma import write_half_chroma

# Deflate level 6 takes half as long again for 2 % less (16-bit photographs).
_PNG_LEVEL = 4
# Effort 4 takes twice as long for 1 % less.
_WEBP_EFFORT = 2
_CHROMA = {"auto": "auto", "444": "off", "422": "off", "420": "on"}


def write_png(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a PNG of 8 or 16 bits."""
    stream = BandStream(bands, about)
    _save(stream, lambda image: image.pngsave(str(path), compression=_PNG_LEVEL, filter="sub", keep="all"))


def write_jpeg(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a JPEG; left to itself, chroma is kept at full resolution from quality 90 on."""
    if about.chroma == "422" and about.channels == 3:
        write_half_chroma(path, bands, about)
        return
    stream = BandStream(bands, about)
    _save(
        stream,
        lambda image: image.jpegsave(
            str(path),
            Q=about.quality,
            optimize_coding=True,
            subsample_mode=_CHROMA[about.chroma],
            interlace=about.progressive,
            keep="all",
        ),
    )


def write_webp(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a WebP without loss; colours that full transparency hides are kept too."""
    stream = BandStream(bands, about)
    _save(
        stream,
        lambda image: image.webpsave(str(path), lossless=True, exact=True, effort=_WEBP_EFFORT, keep="all"),
    )


def _save(stream: BandStream, save: Callable[[pyvips.Image], None]) -> None:
    try:
        save(stream.image())
    except pyvips.Error as error:
        if stream.error is not None:
            raise stream.error from None
        if "no space" in str(error).lower():
            raise OSError(errno.ENOSPC, "No space left on device") from error
        raise OSError(errno.EIO, str(error).strip().splitlines()[-1]) from error
    if stream.error is not None:
        raise stream.error
