"""What a writer needs to know about the file it writes."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.deliver.request.delivery import Chroma, Compression
from wamplex.core.deliver.request.linear_light import LinearColours
from wamplex.core.model.picture import Depth, Metadata


@dataclass(frozen=True)
class FileDescription:
    """Everything about a file but its pixels.

    Attributes
    ----------
    channels : samples per pixel: 1 or 3, and one more with alpha
    linear : of a DNG, whose samples are linear light
    trim_px : what is cut off on each side once it is printed
    """

    width: int
    height: int
    channels: int
    alpha: bool
    depth: Depth
    density_ppi: float
    profile: bytes | None
    metadata: Metadata
    compression: Compression
    quality: int
    chroma: Chroma = "auto"
    progressive: bool = False
    linear: LinearColours | None = None
    trim_px: int = 0
