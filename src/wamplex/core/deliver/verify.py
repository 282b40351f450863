"""Reads a written file back and compares it with what was meant."""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pyvips

from wamplex.core.colour.icc import profile_words
from wamplex.core.deliver.description import FileDescription, Samples
from wamplex.core.errors import DeliveryError, UnreadablePictureError
from wamplex.core.intake.probe import open_lazily, probe
from wamplex.core.progress import Progress

# PNG counts whole pixels per metre and JPEG whole pixels per inch.
_DENSITY_TOLERANCE_PPI = {"TIFF": 0.02, "PNG": 0.02, "JPEG": 0.5}
_STRIP_PX = 256


@dataclass(frozen=True)
class Check:
    """What was found on reading back.

    Attributes
    ----------
    pixels_equal : True where the format is lossless and every sample came back; None for JPEG
    """

    width: int
    height: int
    depth: int
    density_ppi: float
    profile: str
    profile_kept: bool
    file_bytes: int
    pixels_equal: bool | None

    def words(self) -> str:
        """One line for the job list."""
        profile = "profile kept" if self.profile_kept else self.profile
        return (
            f"written and read back: {self.width} × {self.height} px, {self.depth} bit, "
            f"{self.density_ppi:g} ppi, {profile}"
        )


class SampleSum:
    """Running checksum of samples in the order of the file, the same for any cut into bands."""

    def __init__(self) -> None:
        self.value = 0

    def add(self, samples: Samples) -> None:
        """Take in the next rows."""
        self.value = zlib.crc32(np.ascontiguousarray(samples).data, self.value)


def verify(
    path: Path, about: FileDescription, expected_sum: int | None, profile_kept: bool, progress: Progress
) -> Check:
    """Check size, depth, density, profile, and for lossless formats every sample.

    Raises
    ------
    DeliveryError : with what differs
    """
    try:
        found = probe(path)
        read_sum = _decoded_sum(path, found.kind, progress)
    except (UnreadablePictureError, pyvips.Error) as error:
        raise DeliveryError(f"{path.name} was written but cannot be read back: {error}") from error
    differing = [
        words
        for words, same in (
            ("size", (found.width, found.height) == (about.width, about.height)),
            ("depth", found.depth == about.depth),
            ("density", _density_matches(found.kind, found.density_ppi, about.density_ppi)),
            ("profile", found.profile == about.profile),
            ("pixels", expected_sum is None or read_sum == expected_sum),
        )
        if not same
    ]
    if differing:
        raise DeliveryError(
            f"{path.name} did not read back as written: {', '.join(differing)} differ. "
            "It was removed; check the disk and deliver again."
        )
    return Check(
        width=found.width,
        height=found.height,
        depth=found.depth,
        density_ppi=about.density_ppi,
        profile=profile_words(found.profile),
        profile_kept=profile_kept and found.profile is not None,
        file_bytes=found.file_bytes,
        pixels_equal=None if expected_sum is None else True,
    )


def _density_matches(kind: str, found: float | None, meant: float) -> bool:
    # Neither 72 ppi nor 25.4 (one pixel per mm) can be told from no statement.
    candidates = (72.0, 25.4) if found is None else (found,)
    return any(abs(density - meant) <= _DENSITY_TOLERANCE_PPI[kind] for density in candidates)


def _decoded_sum(path: Path, kind: str, progress: Progress) -> int:
    image = open_lazily(path, kind)
    region_sum = SampleSum()
    wide = image.format == "ushort"
    region = pyvips.Region.new(image)
    for y in range(0, image.height, _STRIP_PX):
        progress.check()
        rows = min(_STRIP_PX, image.height - y)
        fetched = region.fetch(0, y, image.width, rows)
        region_sum.add(np.frombuffer(fetched, np.uint16) if wide else np.frombuffer(fetched, np.uint8))
    return region_sum.value
