"""Writes TIFF in strips, BigTIFF where 4 GB are not enough (tifffile)."""

from __future__ import annotations

import zlib
from collections import deque
from collections.abc import Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import tifffile

from wamplex.core.deliver.metadata.exif import ExifFields, append_directories, parse_exif
from wamplex.core.deliver.metadata.iptc import iim_records
from wamplex.core.deliver.request.cmyk_profile import INKS
from wamplex.core.deliver.request.delivery import Compression
from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Bands, Samples

# Classic TIFF counts bytes in 32 bits; the rest is room for tags and for deflate growing noise.
_CLASSIC_BYTES = 4_000_000_000
_STRIP_BYTES = 1 << 20
_DEFLATE_THREADS = 2
_STRIPS_WAITING = 24
_XMP, _IPTC = 700, 33723
_BYTE, _ASCII, _UNDEFINED = 1, 2, 7
# Deflate level 6 takes twice the time of 4 for 1 % less (16-bit photographs).
_DEFLATE_LEVEL = 4
_CODECS = {"deflate": "zlib", "lzw": "lzw", "none": None}


def write_tiff(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a TIFF from bands of rows; nothing but one band and a buffer is held in memory."""
    rows = strip_rows(about)
    wide = _row_bytes(about) * about.height > _CLASSIC_BYTES
    exif = parse_exif(about.metadata.exif)
    packed = about.compression != "none"
    # The pool ends before the writer, whatever happens.
    with tifffile.TiffWriter(path, bigtiff=wide, byteorder="<") as tiff, ThreadPoolExecutor(_DEFLATE_THREADS) as pool:
        tiff.write(
            _encoded(bands, rows, about.compression, pool),
            shape=(about.height, about.width, about.channels) if about.channels > 1 else (about.height, about.width),
            dtype=f"uint{about.depth}",
            photometric=_photometric(about),
            planarconfig="contig" if about.channels > 1 else None,
            extrasamples=["unassalpha"] if about.alpha else None,
            rowsperstrip=rows,
            compression=_CODECS[about.compression],
            predictor=packed,
            iccprofile=about.profile,
            resolution=(about.density_ppi, about.density_ppi),
            resolutionunit="inch",
            software="Wamplex",
            metadata=None,
            extratags=description_tags(about, exif),
        )
    append_directories(path, exif)


def _photometric(about: FileDescription) -> str:
    if about.channels - about.alpha == INKS:
        return "separated"
    return "rgb" if about.channels >= 3 else "minisblack"


def strip_rows(about: FileDescription) -> int:
    """Rows of every strip but the last."""
    return max(1, min(about.height, _STRIP_BYTES // _row_bytes(about)))


def _row_bytes(about: FileDescription) -> int:
    return about.width * about.channels * about.depth // 8


def _encoded(bands: Bands, rows: int, compression: Compression, pool: ThreadPoolExecutor) -> Iterator[bytes]:
    """Strips as they stand in the file; packing runs beside the making of the next band."""
    if compression == "none":
        yield from (strip.tobytes() for strip in strips(bands, rows))
        return
    waiting: deque[Future[bytes]] = deque()
    for strip in strips(bands, rows):
        waiting.append(pool.submit(_packed, strip, compression))
        while waiting and (waiting[0].done() or len(waiting) > _STRIPS_WAITING):
            yield waiting.popleft().result()
    for future in waiting:
        yield future.result()


def _packed(strip: Samples, compression: Compression) -> bytes:
    """Differences from the left neighbour (TIFF 6.0, section 14), then deflate or LZW."""
    differences = strip.copy()
    differences[:, 1:] -= strip[:, :-1]
    if compression == "lzw":
        return bytes(imagecodecs.lzw_encode(differences.tobytes()))
    return zlib.compress(differences.tobytes(), _DEFLATE_LEVEL)


def strips(bands: Bands, rows: int) -> Iterator[Samples]:
    """Cut bands into strips of exactly ``rows`` rows, the last one shorter."""
    rest: Samples | None = None
    for band in bands:
        joined = band if rest is None else np.concatenate([rest, band])
        full_rows = joined.shape[0] // rows * rows
        for start in range(0, full_rows, rows):
            yield joined[start : start + rows]
        rest = joined[full_rows:].copy() if full_rows < joined.shape[0] else None
    if rest is not None:
        yield rest


def description_tags(about: FileDescription, exif: ExifFields) -> list[tuple[Any, ...]]:
    """Tags of the first directory that carry over what the source says of itself."""
    tags: list[tuple[Any, ...]] = []
    for entry in exif.first:
        tags.append((entry.tag, _ASCII, entry.count, entry.data, True))
    if about.metadata.xmp:
        tags.append((_XMP, _BYTE, len(about.metadata.xmp), about.metadata.xmp, True))
    if records := iim_records(about.metadata.iptc):  # bare, as general readers expect (TIFF has no segments)
        tags.append((_IPTC, _UNDEFINED, len(records), records, True))
    return tags
