"""Warnings about a size that help to choose a better one."""

from __future__ import annotations

from dataclasses import dataclass

import psutil

from wamplex.core.deliver.request.delivery import Delivery
from wamplex.core.deliver.request.file_formats import JPEG_SIDE_PX
from wamplex.core.deliver.request.size_limits import expected_bytes, free_bytes
from wamplex.core.geometry.distance import density_for_mm
from wamplex.core.geometry.sheet import Sheet, file_pixels
from wamplex.core.geometry.size import Size
from wamplex.core.geometry.size_text import byte_size_text, distance_text
from wamplex.core.intake.probe import Probe

_LEAST_SOURCE_PX = 128
_MOST_FACTOR = 6.0
# Below this share of what the eye resolves, pixels show clearly.
_CLEARLY_LOW = 0.9
# What enlarging takes beside the source, whatever the factor: networks, bands, the file's own buffers.
_WORKING_BYTES = 1_200_000_000
_SOURCE_PIXEL_BYTES = 12  # three channels of float32


@dataclass(frozen=True)
class UpscalingRange:
    """What enlarging a picture takes at any factor, and what the machine has to spare, in bytes.

    Attributes
    ----------
    memory_needed : the decoded source and the work on it
    memory_free : what programs can have without swapping
    disk_free : beside the picture
    """

    memory_needed: int
    memory_free: int
    disk_free: int


def upscaling_range(picture: Probe) -> UpscalingRange:
    """Free memory and disk space."""
    needed = picture.width * picture.height * _SOURCE_PIXEL_BYTES + _WORKING_BYTES
    return UpscalingRange(needed, psutil.virtual_memory().available, free_bytes(picture.path.parent))


def size_advice(size: Size, sheet: Sheet | None, seen_from_mm: float, limits: UpscalingRange) -> tuple[str, ...]:
    """Sentences, the most important first; none where all is well."""
    sentences = []
    if min(size.source_width, size.source_height) < _LEAST_SOURCE_PX:
        sentences.append(
            f"The source has {size.source_width} × {size.source_height} px. Below {_LEAST_SOURCE_PX} px a side, "
            "upscalers have little detail to work with."
        )
    if size.factor > _MOST_FACTOR + 1e-6:
        sentences.append(f"More than {_MOST_FACTOR:g}×: check the trials closely; much of the detail will be invented.")
    needed = density_for_mm(seen_from_mm)
    if size.density_ppi < _CLEARLY_LOW * needed:
        sentences.append(
            f"From {distance_text(seen_from_mm)} an eye resolves {needed:.0f} ppi, and this print has "
            f"{size.density_ppi:.0f}. Print it smaller, or stand further back."
        )
    longest = max(file_pixels(size, sheet))
    if longest > JPEG_SIDE_PX:
        fits = size.factor * JPEG_SIDE_PX / longest
        sentences.append(
            f"JPEG holds at most 65,535 px a side, and this has {longest:,}: deliver TIFF, or choose {fits:.3g}×."
        )
    return (*sentences, *_beyond(limits, size, sheet))


def _beyond(limits: UpscalingRange, size: Size, sheet: Sheet | None) -> list[str]:
    """Warnings about sizes beyond memory and disk."""
    sentences = []
    if limits.memory_needed > limits.memory_free:
        text = (
            f"Enlarging this takes about {byte_size_text(limits.memory_needed)} of memory at any factor, and "
            f"{byte_size_text(limits.memory_free)} are free: close other programs first."
        )
        fits_mp = (limits.memory_free - _WORKING_BYTES) / _SOURCE_PIXEL_BYTES / 1e6
        sentences.append(text if fits_mp < 1 else f"{text} Sources up to {fits_mp:.0f} megapixels fit as it is.")
    file_bytes = expected_bytes(size, Delivery(), 3, sheet)
    if file_bytes > limits.disk_free:
        fits = size.factor * (limits.disk_free / file_bytes) ** 0.5
        sentences.append(
            f"As a 16-bit TIFF this takes about {byte_size_text(file_bytes)}, and {byte_size_text(limits.disk_free)} "
            f"are free beside the picture: choose another folder or format, or {fits:.2g}×."
        )
    return sentences
