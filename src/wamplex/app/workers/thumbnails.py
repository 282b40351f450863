"""Makes thumbnails as framings leave them, beside the window."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.apply_framing import framed_thumbnail
from wamplex.core.geometry.framing import Framing
from wamplex.core.progress import Progress
from wamplex.core.source import Source


@dataclass(frozen=True)
class ThumbnailKey:
    """One picture of the tray in one framing.

    Attributes
    ----------
    number : of the picture in the tray
    width, height : of the picture itself
    thumbnail : (h, w, 3) uint8 of the whole picture
    """

    number: int
    source: Source
    framing: Framing
    width: int
    height: int
    thumbnail: NDArray[np.uint8] = field(compare=False)


class Thumbnails(LatestRequests[ThumbnailKey]):
    """Makes those asked for last."""

    made = Signal(object, object)  # ThumbnailKey, (h, w, 3) uint8

    def make(self, request: ThumbnailKey, done: int, total: int, progress: Progress) -> None:
        """Make one."""
        self.made.emit(
            request, framed_thumbnail(request.thumbnail, request.framing, request.width, request.height)
        )
