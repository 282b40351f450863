"""Feeds bands of rows to libvips as they are made, so that no whole picture is ever held.

The bands travel as an uncompressed PNG stream, which libvips reads without seeking or holding it.
"""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterator

import numpy as np
import pyvips

from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Bands, Samples

_SIGNATURE = b"\x89PNG\r\n\x1a\n"


class BandStream:
    """Hands bands to libvips; an error raised while making them is kept in ``error``."""

    def __init__(self, bands: Bands, about: FileDescription) -> None:
        self.error: BaseException | None = None
        self._chunks = self._png(bands, about)
        self._left = memoryview(b"")
        self._source = pyvips.SourceCustom()
        self._source.on_read(self._read)
        self._about = about

    def image(self) -> pyvips.Image:
        """The picture as a lazy libvips image with profile, density and metadata attached."""
        about = self._about
        per_mm = about.density_ppi / 25.4
        # Where the stream ends early, so does the file: else libvips would write black to its end.
        image = pyvips.Image.pngload_source(self._source, access="sequential", unlimited=True, fail_on="truncated")
        image = image.copy(xres=per_mm, yres=per_mm)
        blobs = {
            "icc-profile-data": about.profile,
            "exif-data": about.metadata.exif,
            "xmp-data": about.metadata.xmp,
            "iptc-data": about.metadata.iptc,
        }
        for name, blob in blobs.items():
            if blob is not None:
                image.set_type(pyvips.GValue.blob_type, name, blob)
        image.set_type(pyvips.GValue.gint_type, "orientation", 1)
        image.set_type(pyvips.GValue.gstr_type, "resolution-unit", "in")
        return image

    def _png(self, bands: Bands, about: FileDescription) -> Iterator[memoryview]:
        kind = {1: 0, 2: 4, 3: 2, 4: 6}[about.channels]
        head = struct.pack(">IIBBBBB", about.width, about.height, about.depth, kind, 0, 0, 0)
        yield memoryview(_SIGNATURE + _chunk(b"IHDR", head))
        packer = zlib.compressobj(level=0)
        for band in bands:
            stored = packer.compress(_scanlines(band))
            if stored:
                yield memoryview(_chunk(b"IDAT", stored))
        yield memoryview(_chunk(b"IDAT", packer.flush()) + _chunk(b"IEND", b""))

    def _read(self, count: int) -> bytes:
        # An exception must not cross into libvips: it ends the stream instead and is raised later.
        try:
            while not self._left:
                self._left = next(self._chunks)
        except StopIteration:
            return b""
        except BaseException as error:
            self.error = error
            return b""
        bytes_now, self._left = self._left[:count], self._left[count:]
        return bytes(bytes_now)


def _scanlines(band: Samples) -> bytes:
    """Rows in network byte order, each behind a byte that says “not filtered”."""
    rows = np.ascontiguousarray(band, dtype=">u2" if band.dtype == np.uint16 else np.uint8)
    flat = rows.reshape(rows.shape[0], -1).view(np.uint8)
    return np.pad(flat, ((0, 0), (1, 0))).tobytes()


def _chunk(name: bytes, data: bytes) -> bytes:
    checksum = zlib.crc32(data, zlib.crc32(name))
    return struct.pack(">I", len(data)) + name + data + struct.pack(">I", checksum)
