"""The quality a JPEG, WebP or AVIF file was saved with, from its quantisers."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from wamplex.core.analysis.compression.av1_quantiser import read_av1_quantiser
from wamplex.core.analysis.compression.webp_quality import read_webp_quality

# ITU-T T.81 (1992), Annex K, tables K.1 and K.2, row by row.
_LUMINANCE = """
16 11 10 16 24 40 51 61   12 12 14 19 26 58 60 55   14 13 16 24 40 57 69 56   14 17 22 29 51 87 80 62
18 22 37 56 68 109 103 77   24 35 55 64 81 104 113 92   49 64 78 87 103 121 120 101
72 92 95 98 112 100 103 99
"""
_CHROMINANCE = """
17 18 24 47 99 99 99 99   18 21 26 66 99 99 99 99   24 26 56 99 99 99 99 99   47 66 99 99 99 99 99 99
99 99 99 99 99 99 99 99   99 99 99 99 99 99 99 99   99 99 99 99 99 99 99 99   99 99 99 99 99 99 99 99
"""
Codec = Literal["jpeg", "webp", "avif"]
# Qualities of other codecs, and the JPEG qualities that leave pictures the same luma PSNR. Own measurement:
# mean of 12 photographs of 400 x 300 pixels, saved with Pillow 13.
_LIKE_JPEG = {
    "webp": (
        (5, 15, 30, 40, 50, 60, 75, 85, 90, 95, 100),
        (13, 20, 33, 45, 56, 64, 74, 87, 91, 95, 97),
    ),
    "avif": ((5, 15, 30, 40, 50, 60, 75, 85, 90, 100), (7, 9, 19, 31, 59, 76, 89, 92, 95, 98)),
}
# base_q_idx and the quality that gives it: own measurement with Pillow 13 and libavif 1.4, which agree.
_AVIF_QUALITIES = (
    (0, 16, 32, 48, 76, 120, 148, 172, 196, 228, 249, 255),
    (100, 95, 90, 85, 75, 60, 50, 40, 30, 15, 5, 1),
)
_HEIC_BRANDS = (b"heic", b"heix", b"mif1")
_DQT, _START_OF_SCAN, _START = 0xDB, 0xDA, 0xD8
_WITHOUT_LENGTH = (0x01, *range(0xD0, 0xD8))


@dataclass(frozen=True)
class FileCompression:
    """What is known of a file's compression.

    Attributes
    ----------
    quality : 1 to 100 on the scale of the Independent JPEG Group, or of the usual WebP encoder; None where
        there is no lossy compression
    reason : where this is known from, in words
    earlier : quality of an earlier save that left more marks, None when there seems to have been none
    in_file : whether the file itself says so; else the pixels do
    codec : what compressed it
    """

    quality: int | None
    reason: str
    earlier: int | None = None
    in_file: bool = True
    codec: Codec = "jpeg"

    @property
    def worst(self) -> int | None:
        """The lowest quality the picture ever had."""
        return min((q for q in (self.quality, self.earlier) if q is not None), default=None)

    @property
    def strength(self) -> float:
        """How much there is to repair, 0 to 100: what the JPEG quality that does as much falls short by."""
        worst = self.worst
        return 0.0 if worst is None else 100 - equivalent_jpeg_quality(self.codec, worst)


def read_compression(header: bytes) -> FileCompression:
    """The quality whose tables come closest to those in a file; nothing is decoded.

    Parameters
    ----------
    header : the first bytes of the file
    """
    webp = read_webp_quality(header)
    if webp is not None:
        return FileCompression(webp, f"the file's quantisers match WebP quality {webp}", codec="webp")
    quantiser = read_av1_quantiser(header)
    if quantiser is not None:
        quality = round(float(np.interp(quantiser, *_AVIF_QUALITIES)))
        reason = f"the file's quantiser ({quantiser} of 255) matches AVIF quality {quality}"
        return FileCompression(quality, reason, codec="avif")
    if header[4:8] == b"ftyp" and header[8:12] in _HEIC_BRANDS:
        return FileCompression(None, "HEIC is lossy; its quality cannot be read from the file")
    tables = quantisation_tables(header)
    if not tables:
        return FileCompression(None, "the file has no JPEG quantisation tables")
    quality = nearest_quality(tables)
    return FileCompression(quality, f"the file's quantisation tables match JPEG quality {quality}")


def equivalent_jpeg_quality(codec: Codec, quality: float) -> float:
    """The JPEG quality whose damage is about as strong as that of another codec's."""
    return float(quality) if codec == "jpeg" else float(np.interp(quality, *_LIKE_JPEG[codec]))


def standard_table(quality: int, *, chroma: bool) -> NDArray[np.int64]:
    """64 quantiser steps of a quality: the standard's tables scaled by the rule of the IJG's library."""
    base = np.array((_CHROMINANCE if chroma else _LUMINANCE).split(), np.int64)
    scale = 5000 // quality if quality < 50 else 200 - 2 * quality
    return np.clip((base * scale + 50) // 100, 1, 255)


def nearest_quality(tables: dict[int, NDArray[np.int64]]) -> int:
    """Quality whose luminance table (identifier 0) is nearest; mean steps are compared, in any order."""
    table = tables.get(0, next(iter(tables.values())))
    means = {q: float(standard_table(q, chroma=False).mean()) for q in range(1, 101)}
    target_mean = float(table.mean())
    return min(means, key=lambda q: abs(means[q] - target_mean))


def quantisation_tables(data: bytes) -> dict[int, NDArray[np.int64]]:
    """The tables in a JPEG file's header by their identifier, zigzag order; empty for other files."""
    if data[:2] != bytes((0xFF, _START)):
        return {}
    tables: dict[int, NDArray[np.int64]] = {}
    at = 2
    while at + 4 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == 0xFF or marker in _WITHOUT_LENGTH:
            at += 1 if marker == 0xFF else 2
            continue
        length = int.from_bytes(data[at + 2 : at + 4], "big")
        if marker == _START_OF_SCAN or length < 2:
            break
        if marker == _DQT:
            tables.update(_tables_in(data[at + 4 : at + 2 + length]))
        at += 2 + length
    return tables


def _tables_in(segment: bytes) -> dict[int, NDArray[np.int64]]:
    tables: dict[int, NDArray[np.int64]] = {}
    at = 0
    while at < len(segment):
        wide, identifier = segment[at] >> 4, segment[at] & 15
        size = 128 if wide else 64
        steps = np.frombuffer(segment[at + 1 : at + 1 + size], ">u2" if wide else "u1")
        if len(steps) != 64:
            break
        tables[identifier] = steps.astype(np.int64)
        at += 1 + size
    return tables
