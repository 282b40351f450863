"""Writes the proof sheet or the paper strip, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import FOR_THE_EYE
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.model.source import Source
from wamplex.core.sheet_export.cells import Column, render_cells
from wamplex.core.sheet_export.page_writers import write_sheet_html, write_sheet_pdf, write_sheet_png
from wamplex.core.sheet_export.sheet_layout import SHEET_PX_PER_MM, sheet_page, strip_cell_px, strip_page
from wamplex.core.trial.developed_picture import develop_picture

_SHEET_CELL_PX = (240, 160)


@dataclass(frozen=True)
class SheetExport:
    """What is written: ``kind`` is "pdf", "png", "html", or "strip-" and a paper."""

    kind: str
    source: Source
    spots: tuple[Spot, ...]
    columns: tuple[Column, ...]
    target: Path


class SheetExportThread(QThread):
    """One file."""

    progressed = Signal(float, str)
    done = Signal(object)  # path
    failed = Signal(str)

    def __init__(self, store: PictureCache, request: SheetExport, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store, self._request = store, request
        self._progress = Progress(self.progressed.emit)

    def cancel(self) -> None:
        """Stop; no file is left."""
        self._progress.cancel()

    def run(self) -> None:
        """The thread's work."""
        lower_priority(FOR_THE_EYE)
        try:
            self._write(self._request)
        except Cancelled:
            return
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory for this sheet."))
        else:
            self.done.emit(self._request.target)

    def _write(self, request: SheetExport) -> None:
        picture = self._store.get(request.source, self._progress)
        if request.columns:
            picture = develop_picture(picture, request.columns[0].recipe, self._progress)
        paper = request.kind.removeprefix("strip-") if request.kind.startswith("strip-") else None
        size = _SHEET_CELL_PX
        if paper is not None:
            density = request.columns[0].recipe.density_ppi
            size = strip_cell_px(paper, len(request.spots), len(request.columns), density)
        cells = render_cells(picture, request.source.path.name, request.spots, request.columns, *size, self._progress)
        if paper is not None:
            write_sheet_pdf(strip_page(cells, paper), request.target)
        elif request.kind == "pdf":
            write_sheet_pdf(sheet_page(cells), request.target)
        elif request.kind == "png":
            write_sheet_png(sheet_page(cells), request.target, SHEET_PX_PER_MM)
        else:
            write_sheet_html(cells, request.target)
