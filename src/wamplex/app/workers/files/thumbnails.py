"""Renders framed thumbnails, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass, field

from PySide6.QtCore import Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.progress import Progress
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.compressed_thumbnail import Thumbnail, compress_thumbnail, thumbnail_pixels
from wamplex.core.model.source import Source
from wamplex.core.trial.framed_picture import frame_thumbnail


@dataclass(frozen=True)
class ThumbnailKey:
    """One picture of the tray in one framing.

    Attributes
    ----------
    number : of the picture in the tray
    width, height : of the picture itself
    thumbnail : (h, w, 3) of the whole picture
    """

    number: int
    source: Source
    framing: Framing
    width: int
    height: int
    thumbnail: Thumbnail = field(compare=False)


class Thumbnails(LatestRequests[ThumbnailKey]):
    """Makes those asked for last."""

    ready = Signal(object, object)  # ThumbnailKey, Thumbnail, packed where that of the whole picture is

    def make(self, request: ThumbnailKey, done: int, total: int, progress: Progress) -> None:
        """Make one."""
        shown = thumbnail_pixels(request.thumbnail)
        framed = frame_thumbnail(shown, request.framing, request.width, request.height)
        self.ready.emit(request, framed if shown is request.thumbnail else compress_thumbnail(framed))
