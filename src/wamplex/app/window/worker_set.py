"""Starts, ends and connects all worker threads as one."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject

from wamplex.app.workers.files.loader import Loader
from wamplex.app.workers.rendering.masks import MaskWorker
from wamplex.app.workers.rendering.readings import ReadingsThread
from wamplex.app.workers.rendering.result_crops import ResultCropWorker
from wamplex.app.workers.rendering.scenes import SceneAligner
from wamplex.app.workers.rendering.sheet_previews import SheetPreviews
from wamplex.app.workers.rendering.tiles import TileRenderer
from wamplex.app.workers.rendering.trial_differences import TrialDifferenceFinder
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.workflow.assessment.assessment_client import AssessmentClient


class WorkerSet:
    """All workers of the window.

    Attributes
    ----------
    loader : looks at pictures that come, and measures them
    renderer, readings : make tiles of trials, and read them
    masks, differ, scenes, previews, looks : for Finish, Trial, the tray, Size and Deliver
    """

    def __init__(self, store: PictureCache, parent: QObject) -> None:
        self.loader = Loader(AssessmentClient(), parent)
        self.renderer = TileRenderer(store, parent)
        self.readings = ReadingsThread(store, parent)
        self.masks = MaskWorker(store, parent)
        self.differ = TrialDifferenceFinder(store, parent)
        self.scenes = SceneAligner(store, parent)
        self.previews = SheetPreviews(parent)
        self.looks = ResultCropWorker(store, parent)
        # Signals are known to the type checker only of the class that has them.
        self._threads: list[Any] = [
            self.renderer,
            self.readings,
            self.masks,
            self.differ,
            self.scenes,
            self.previews,
            self.looks,
        ]

    def join(self, *threads: Any) -> None:
        """Begin and end these as well."""
        self._threads += threads

    def tell(self, warn: Callable[[str], object]) -> None:
        """Call this with a sentence when one of them breaks."""
        for worker in (self.loader, *self._threads):
            if hasattr(worker, "broke"):
                worker.broke.connect(warn)

    def start(self) -> None:
        """Begin."""
        for thread in self._threads:
            thread.start()

    def end(self) -> None:
        """Give up what is under way, and wait until all are at rest."""
        for thread in self._threads:
            thread.end()
