"""What a writer needs to know about the file it writes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from wamplex.core.deliver.delivery import Chroma, Compression
from wamplex.core.picture import Depth, Metadata

if TYPE_CHECKING:
    from wamplex.core.deliver.linear import LinearColours

Samples = NDArray[np.uint8] | NDArray[np.uint16]
# Full-width runs of rows from top to bottom, (h, width, channels), uint8 or uint16.
Bands = Iterator[Samples]


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
