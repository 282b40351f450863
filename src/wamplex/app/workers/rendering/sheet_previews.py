"""Renders the small picture of the print, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.base.progress import Progress
from wamplex.core.geometry.sheet import Sheet
from wamplex.core.geometry.size import Size
from wamplex.core.preview.sheet_preview import sheet_preview

PREVIEW_PX = 720


@dataclass(frozen=True)
class PrintKey:
    """One print: which picture, how large, on what.

    Attributes
    ----------
    picture : tells pictures and their framings apart
    framed : thumbnail (h, w, 3) of what the framing leaves
    """

    picture: object
    size: Size
    sheet: Sheet | None
    framed: NDArray[np.uint8] = field(compare=False)


class SheetPreviews(LatestRequests[PrintKey]):
    """Makes the print asked for last."""

    ready = Signal(object, object)  # PrintKey, (h, w, 3) uint8

    def make(self, request: PrintKey, done: int, total: int, progress: Progress) -> None:
        """Make one."""
        self.ready.emit(request, sheet_preview(request.framed, request.size, request.sheet, PREVIEW_PX))
