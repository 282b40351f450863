"""Writes JPEG with colour halved across alone (4:2:2), which libvips cannot; the whole picture is held."""

from __future__ import annotations

import io
from pathlib import Path

from wamplex.core.deliver.request.file_description import FileDescription
from wamplex.core.deliver.request.samples import Bands

_HALVED_ACROSS = 1  # Pillow's number for 4:2:2
_LARGEST_SEGMENT = 65_533


def write_half_chroma(path: Path, bands: Bands, about: FileDescription) -> None:
    """Write a JPEG in colour, 4:2:2."""
    from PIL import Image  # seldom wanted, and not worth a slower start

    image = Image.new("RGB", (about.width, about.height))
    top = 0
    for band in bands:
        image.paste(Image.fromarray(band), (0, top))
        top += len(band)
    metadata = about.metadata
    blobs = {
        name: blob
        for name, blob in (("exif", metadata.exif), ("xmp", metadata.xmp), ("icc_profile", about.profile))
        if blob is not None
    }
    buffer = io.BytesIO()
    image.save(
        buffer,
        "JPEG",
        quality=about.quality,
        subsampling=_HALVED_ACROSS,
        optimize=True,
        progressive=about.progressive,
        dpi=(about.density_ppi, about.density_ppi),
        extra=_segment(metadata.iptc),
        **blobs,
    )
    path.write_bytes(buffer.getbuffer())


def _segment(iptc: bytes | None) -> bytes:
    """IPTC as it was read, in a segment of its own (APP13), as libvips writes it."""
    if iptc is None or len(iptc) > _LARGEST_SEGMENT:
        return b""
    return b"\xff\xed" + (len(iptc) + 2).to_bytes(2, "big") + iptc
