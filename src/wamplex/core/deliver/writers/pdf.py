"""Writes PDF (ISO 32000-1:2008, version 1.7): a page of exactly the print's size, the picture as it is.

The picture is packed as it comes, so that nothing but a band is held; what is known only afterwards, such as
its length, stands in objects of its own behind it.
"""

from __future__ import annotations

import re
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from io import BufferedWriter
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Bands, Samples

_POINTS_PER_INCH = 72.0
_LARGEST_POINTS = 14_400.0  # annex C: larger pages are told in units of their own
_DEFLATE_LEVEL = 4
_CATALOG, _PAGES, _PAGE, _CONTENT, _IMAGE, _LENGTH, _PROFILE, _XMP = range(1, 9)
_READ_BYTES = 1 << 20


def write_print_pdf(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a page with its picture, profile and description; trim and bleed as its boxes."""
    with path.open("wb") as file:
        out = _Objects(file)
        file.write(b"%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
        metadata = f" /Metadata {_XMP} 0 R" if about.metadata.xmp else ""
        out.plain(_CATALOG, f"<< /Type /Catalog /Pages {_PAGES} 0 R{metadata} >>")
        out.plain(_PAGES, f"<< /Type /Pages /Kids [{_PAGE} 0 R] /Count 1 >>")
        out.plain(_PAGE, _page(about))
        width, height = _points(about)
        out.stream(_CONTENT, "", f"q {width:.5f} 0 0 {height:.5f} 0 0 cm /Picture Do Q".encode())
        length = out.picture(bands, about)
        out.plain(_LENGTH, str(length))
        assert about.profile is not None
        out.stream(_PROFILE, f"/N {about.channels}", about.profile)
        if about.metadata.xmp:
            out.stream(_XMP, "/Type /Metadata /Subtype /XML", about.metadata.xmp, packed=False)
        out.end()


def _points(about: FileDescription) -> tuple[float, float]:
    """Width and height of the page in its own units."""
    per_px = _POINTS_PER_INCH / about.density_ppi / _unit(about)
    return about.width * per_px, about.height * per_px


def _unit(about: FileDescription) -> float:
    """How many points a unit of the page stands for: more than one for prints of over five metres."""
    longest = max(about.width, about.height) * _POINTS_PER_INCH / about.density_ppi
    return max(1.0, float(np.ceil(longest / _LARGEST_POINTS)))


def _page(about: FileDescription) -> str:
    width, height = _points(about)
    cut = about.trim_px * _POINTS_PER_INCH / about.density_ppi / _unit(about)
    media_box = f"[0 0 {width:.5f} {height:.5f}]"
    trim = f"[{cut:.5f} {cut:.5f} {width - cut:.5f} {height - cut:.5f}]"
    unit = f" /UserUnit {_unit(about):g}" if _unit(about) > 1 else ""
    return (
        f"<< /Type /Page /Parent {_PAGES} 0 R /MediaBox {media_box} /BleedBox {media_box} /TrimBox {trim}{unit} "
        f"/Resources << /XObject << /Picture {_IMAGE} 0 R >> >> /Contents {_CONTENT} 0 R >>"
    )


class _Objects:
    """Numbers objects, and knows where each begins."""

    def __init__(self, file: BufferedWriter) -> None:
        self._file = file
        self._places: dict[int, int] = {}

    def plain(self, number: int, body: str) -> None:
        self._begin(number)
        self._file.write(f"{body}\nendobj\n".encode())

    def stream(self, number: int, entries: str, body: bytes, *, packed: bool = True) -> None:
        data = zlib.compress(body) if packed else body
        kind = " /Filter /FlateDecode" if packed else ""
        self._begin(number)
        self._file.write(f"<< {entries}{kind} /Length {len(data)} >>\nstream\n".encode())
        self._file.write(data + b"\nendstream\nendobj\n")

    def picture(self, bands: Bands, about: FileDescription) -> int:
        """The picture, and how many bytes it takes."""
        self._begin(_IMAGE)
        self._file.write(
            f"<< /Type /XObject /Subtype /Image /Width {about.width} /Height {about.height} "
            f"/BitsPerComponent {about.depth} /ColorSpace [/ICCBased {_PROFILE} 0 R] /Filter /FlateDecode "
            f"/DecodeParms << /Predictor 15 /Colors {about.channels} /BitsPerComponent {about.depth} "
            f"/Columns {about.width} >> /Length {_LENGTH} 0 R >>\nstream\n".encode()
        )
        begun, packer = self._file.tell(), zlib.compressobj(_DEFLATE_LEVEL)
        for band in bands:
            self._file.write(packer.compress(_scanlines(band)))
        self._file.write(packer.flush())
        length = self._file.tell() - begun
        self._file.write(b"\nendstream\nendobj\n")
        return length

    def end(self) -> None:
        self._file.write(_table(self._places, self._file.tell()))

    def _begin(self, number: int) -> None:
        self._places[number] = self._file.tell()
        self._file.write(f"{number} 0 obj\n".encode())


def _table(places: dict[int, int], begun: int) -> bytes:
    """The cross-reference table, and where it begins."""
    count = max(places) + 1
    lines = [f"{places[number]:010d} 00000 n \n" for number in range(1, count)]
    head = f"xref\n0 {count}\n0000000000 65535 f \n{''.join(lines)}"
    trailer = f"trailer\n<< /Size {count} /Root {_CATALOG} 0 R >>\nstartxref\n{begun}\n%%EOF\n"
    return (head + trailer).encode()


def _scanlines(band: Samples) -> bytes:
    """Rows in network byte order, each as differences from the pixel before (PNG's filter "Sub")."""
    rows = np.ascontiguousarray(band, dtype=">u2" if band.dtype == np.uint16 else np.uint8)
    flat = rows.reshape(rows.shape[0], -1).view(np.uint8)
    pixel = rows.shape[2] * rows.itemsize
    lines = np.empty((flat.shape[0], 1 + flat.shape[1]), np.uint8)
    lines[:, 0] = 1
    lines[:, 1:] = flat
    lines[:, 1 + pixel :] -= flat[:, :-pixel]
    return lines.tobytes()


@dataclass(frozen=True)
class PdfPage:
    """What a file of ours says of its page.

    Attributes
    ----------
    offset, length : of the packed picture, in bytes
    """

    width: int
    height: int
    depth: int
    points: tuple[float, float]
    unit: float
    profile: bytes
    offset: int
    length: int

    def rows(self, path: Path, channels: int) -> Iterator[Samples]:
        """The picture's rows, some at a time, unpacked again: (h, width, channels).

        Raises
        ------
        ValueError, zlib.error : when it is damaged
        """
        pixel = channels * self.depth // 8
        line, waiting = 1 + self.width * pixel, b""
        for part in _unpacked(path, self.offset, self.length):
            waiting += part
            full_lines = len(waiting) // line
            if full_lines:
                block = np.frombuffer(waiting[: full_lines * line], np.uint8).reshape(full_lines, line)
                waiting = waiting[full_lines * line :]
                yield _samples(block[:, 1:], self.width, channels, self.depth)
        if waiting:
            raise ValueError("the picture ends in the middle of a row")


def read_page(path: Path) -> PdfPage:
    """Read one of our files back, by its cross-reference table.

    Raises
    ------
    ValueError : when it is not as it was written
    """
    places = _places(path)
    page, image = _object(path, places[_PAGE]), _object(path, places[_IMAGE])
    box = [float(n) for n in _search(rb"/MediaBox \[([\d. ]+)\]", page).split()]
    unit = re.search(rb"/UserUnit (\d+)", page)
    profile = _object(path, places[_PROFILE])
    begun = profile.index(b"stream\n") + 7
    packed = _bytes_at(path, places[_PROFILE] + begun, int(_search(rb"/Length (\d+)", profile)))
    return PdfPage(
        width=int(_search(rb"/Width (\d+)", image)),
        height=int(_search(rb"/Height (\d+)", image)),
        depth=int(_search(rb"/BitsPerComponent (\d+)", image)),
        points=(box[2], box[3]),
        unit=float(unit[1]) if unit else 1.0,
        profile=zlib.decompress(packed),
        offset=places[_IMAGE] + image.index(b"stream\n") + 7,
        length=int(_search(rb"obj\n(\d+)\n", _object(path, places[_LENGTH]))),
    )


def _places(path: Path) -> dict[int, int]:
    with path.open("rb") as file:
        file.seek(-64, 2)
        table = int(_search(rb"startxref\n(\d+)\n%%EOF", file.read()))
        file.seek(table)
        text = file.read()
    lines = text.split(b"\n")
    count = int(lines[1].split()[1])
    places = {number: int(lines[2 + number].split()[0]) for number in range(1, count)}
    if text != _table(places, table):
        raise ValueError("its table of contents is not as it was written")
    for number, place in places.items():
        if not _bytes_at(path, place, 16).startswith(f"{number} 0 obj\n".encode()):
            raise ValueError(f"object {number} is not where it should be")
    return places


def _object(path: Path, place: int) -> bytes:
    """The dictionary at the beginning of an object."""
    return _bytes_at(path, place, 2048)


def _bytes_at(path: Path, place: int, count: int) -> bytes:
    with path.open("rb") as file:
        file.seek(place)
        return file.read(count)


def _search(pattern: bytes, text: bytes) -> bytes:
    match = re.search(pattern, text)
    if match is None:
        raise ValueError("the page does not say what it should")
    return bytes(match[1])


def _unpacked(path: Path, start: int, length: int) -> Iterator[bytes]:
    unpacker = zlib.decompressobj()
    with path.open("rb") as file:
        file.seek(start)
        while length > 0:
            part = file.read(min(length, _READ_BYTES))
            if not part:
                raise ValueError("the picture is cut off")
            length -= len(part)
            yield unpacker.decompress(part)
    yield unpacker.flush()


def _samples(lines: NDArray[np.uint8], width: int, channels: int, depth: int) -> Samples:
    """Undo the differences, byte by byte."""
    pixel = channels * depth // 8
    bytes_ = np.add.accumulate(lines.reshape(len(lines), width, pixel), axis=1, dtype=np.uint8)
    if depth == 8:
        return bytes_
    return bytes_.reshape(len(lines), -1).view(">u2").astype(np.uint16).reshape(len(lines), width, channels)
