"""Reads a written file back and compares it with what was meant."""

from __future__ import annotations

import os
import zlib
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

import imagecodecs
import numpy as np
import pyvips
import tifffile

from wamplex.core.base.errors import UnreadablePictureError, UnverifiedFileError
from wamplex.core.base.progress import Progress
from wamplex.core.colour.icc import profile_name
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Samples
from wamplex.core.deliver.writers.pdf import read_page
from wamplex.core.deliver.writers.tiff import strip_rows
from wamplex.core.intake.formats import RAW
from wamplex.core.intake.probe import probe

# PNG counts whole pixels per metre and JPEG whole pixels per inch.
_DENSITY_TOLERANCE_PPI = {"TIFF": 0.02, "PNG": 0.02, "JPEG": 0.5}
_ROWS, _THREADS = 256, 2
_LZW = 5  # TIFF 6.0, section 13


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
    profile_preserved: bool
    file_bytes: int
    pixels_equal: bool | None

    def text(self) -> str:
        """One line for the job list."""
        profile = "profile kept" if self.profile_preserved else self.profile
        return (
            f"written and read back: {self.width} × {self.height} px, {self.depth} bit, "
            f"{self.density_ppi:g} ppi, {profile}"
        )


def checked_rows(file_format: str, about: FileDescription) -> int:
    """Number of rows that share a checksum; in TIFF those of a strip.

    Parameters
    ----------
    file_format : key of the format
    about : what the file should hold

    Returns
    -------
    Rows.
    """
    return strip_rows(about) if file_format in ("tiff", "dng") else _ROWS


class SampleSum:
    """Checksums of runs of rows in the order of the file, the same for any cut into bands.

    Parameters
    ----------
    rows : rows per block
    """

    def __init__(self, rows: int) -> None:
        self._rows = self._left = rows
        self._open = 0
        self._closed: list[int] = []

    def add(self, samples: Samples) -> None:
        """Take in the next rows.

        Parameters
        ----------
        samples : the next band, from top to bottom
        """
        while samples.shape[0] > 0:
            part = np.ascontiguousarray(samples[: self._left])
            self._open = zlib.crc32(part.data, self._open)
            samples = samples[self._left :]
            self._left -= part.shape[0]
            if self._left == 0:
                self._closed.append(self._open)
                self._open, self._left = 0, self._rows

    def sums(self) -> list[int]:
        """One checksum for every run, the last one possibly shorter."""
        return self._closed + ([self._open] if self._left < self._rows else [])


def verify(
    path: Path,
    about: FileDescription,
    expected: list[int] | None,
    keeps_profile: bool,
    progress: Progress,
    read_along: Future[list[int]] | None = None,
) -> Check:
    """Check size, depth, density, profile, and for lossless formats every sample.

    Parameters
    ----------
    path : the file
    about : what the file should hold
    expected : checksums of what was written, where the format keeps every sample
    keeps_profile : whether the profile must be that of the source
    progress : receives the progress; cancelling it raises `Cancelled`
    read_along : what was read of a PNG while it was written; other files are read now

    Returns
    -------
    What the file says of itself, and whether every sample is as it was meant.

    Raises
    ------
    UnverifiedFileError : with what differs
    """
    if not os.path.exists(path):
        raise UnverifiedFileError(
            "The file is gone: its folder was removed or emptied while the file was written. Deliver it again."
        )
    if _is_pdf(path):
        return _verify_pdf(path, about, expected, keeps_profile, progress)
    try:
        header = probe(path)
        if read_along is not None:
            read_sums = read_along.result()
        elif header.kind in ("TIFF", RAW):
            read_sums = _strip_sums(path, progress)
        elif header.kind == "WebP":
            read_sums = _webp_sums(path, about, progress)
        else:
            read_sums = None
            _decode_coefficients(path, progress)
    except (UnreadablePictureError, pyvips.Error, zlib.error, ValueError) as error:
        reason = str(error).replace(path.name, "it")
        raise UnverifiedFileError(f"The file was written, but cannot be read back: {reason}") from error
    _refuse_differing(
        path,
        {
            "size": (header.width, header.height) == (about.width, about.height),
            "depth": header.depth == about.depth,
            "density": _density_matches(header.kind, header.density_ppi, about.density_ppi),
            "profile": header.profile == about.profile,
            "pixels": expected is None or read_sums == expected,
        },
    )
    return Check(
        width=header.width,
        height=header.height,
        depth=header.depth,
        density_ppi=about.density_ppi,
        profile=profile_name(header.profile),
        profile_preserved=keeps_profile and header.profile is not None,
        file_bytes=header.file_bytes,
        pixels_equal=None if expected is None else True,
    )


def _is_pdf(path: Path) -> bool:
    """Whether a file begins as a PDF does."""
    with path.open("rb") as file:
        return file.read(5) == b"%PDF-"


def _verify_pdf(
    path: Path, about: FileDescription, expected: list[int] | None, keeps_profile: bool, progress: Progress
) -> Check:
    try:
        page = read_page(path)
        sums = SampleSum(checked_rows("pdf", about))
        for samples in page.rows(path, about.channels):
            progress.check()
            sums.add(samples.reshape(samples.shape[0], -1))
    except (ValueError, KeyError, IndexError, zlib.error) as error:
        reason = str(error).replace(path.name, "it")
        raise UnverifiedFileError(f"The file was written, but cannot be read back: {reason}") from error
    meant = [side / about.density_ppi * 72 for side in (about.width, about.height)]
    printed = [points * page.unit for points in page.points]
    _refuse_differing(
        path,
        {
            "size": (page.width, page.height) == (about.width, about.height),
            "depth": page.depth == about.depth,
            "print size": all(abs(one - other) < 0.02 for one, other in zip(meant, printed, strict=True)),
            "profile": page.profile == about.profile,
            "pixels": sums.sums() == expected,
        },
    )
    return Check(
        width=page.width,
        height=page.height,
        depth=page.depth,
        density_ppi=about.density_ppi,
        profile=profile_name(page.profile),
        profile_preserved=keeps_profile,
        file_bytes=path.stat().st_size,
        pixels_equal=True,
    )


def _refuse_differing(path: Path, same: dict[str, bool]) -> None:
    differing = [text for text, is_same in same.items() if not is_same]
    if differing:
        raise UnverifiedFileError(
            f"The file did not read back as written: {', '.join(differing)} differ. "
            "It was removed. Check the disk, then deliver again."
        )


def _density_matches(kind: str, density: float | None, meant: float) -> bool:
    if kind in (RAW, "WebP"):  # neither has a place for it
        return True
    # Neither 72 ppi nor 25.4 (one pixel per mm) can be told from no statement.
    candidates = (72.0, 25.4) if density is None else (density,)
    return any(abs(density - meant) <= _DENSITY_TOLERANCE_PPI[kind] for density in candidates)


def decoded_rows(image: pyvips.Image, progress: Progress) -> Iterator[Samples]:
    """Decode an image from top to bottom.

    Parameters
    ----------
    image : an opened libvips image
    progress : receives the progress; cancelling it raises `Cancelled`

    Returns
    -------
    Bands of samples, (rows, columns, channels).
    """
    wide = image.format == "ushort"
    region = pyvips.Region.new(image)
    for y in range(0, image.height, _ROWS):
        progress.check()
        rows = min(_ROWS, image.height - y)
        fetched = region.fetch(0, y, image.width, rows)
        samples = np.frombuffer(fetched, np.uint16) if wide else np.frombuffer(fetched, np.uint8)
        yield samples.reshape(rows, -1)


def _decode_coefficients(path: Path, progress: Progress) -> None:
    """Decode all coefficients of a JPEG; that this can be done is all there is to know of one.

    At an eighth of the size, as only the cosine transform is left out, which cannot fail.
    """
    image = pyvips.Image.jpegload(str(path), access="sequential", fail_on="warning", shrink=8)
    for _rows in decoded_rows(image, progress):
        pass


def _webp_sums(path: Path, about: FileDescription, progress: Progress) -> list[int]:
    """An alpha that is whole everywhere is not kept in the file."""
    image = pyvips.Image.webpload(str(path), fail_on="warning")
    if image.bands < about.channels:
        image = image.bandjoin(255)
    sums = SampleSum(_ROWS)
    for samples in decoded_rows(image, progress):
        sums.add(samples)
    return sums.sums()


def _strip_sums(path: Path, progress: Progress) -> list[int]:
    """Decode the strips of a TIFF, several at a time."""
    with tifffile.TiffFile(path) as tiff:
        # The picture of a DNG lies behind its preview.
        page = tiff.pages[0].pages[0] if tiff.pages[0].pages else tiff.pages[0]
        kind = f"{tiff.byteorder}u{page.bitspersample // 8}"
        shape = (page.imagewidth, page.samplesperpixel)
        deflated, places = (
            page.compression != 1,
            list(zip(page.dataoffsets, page.databytecounts, strict=True)),
        )

        lzw = page.compression == _LZW

    def strip_sum(place: tuple[int, int]) -> int:
        progress.check()
        with path.open("rb") as file:
            file.seek(place[0])
            body = file.read(place[1])
        if not deflated:
            return zlib.crc32(body)
        unpacked = imagecodecs.lzw_decode(body) if lzw else zlib.decompress(body)
        samples = np.frombuffer(unpacked, kind).reshape(-1, *shape)
        # Undo the differences from the left neighbour (TIFF 6.0, section 14).
        return zlib.crc32(np.add.accumulate(samples, axis=1, dtype=samples.dtype).data)

    with ThreadPoolExecutor(_THREADS) as pool:
        return list(pool.map(strip_sum, places))
