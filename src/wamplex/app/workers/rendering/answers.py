"""Runs the known-answer test, off the GUI thread."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.app.workers.thread_priority import lower_priority
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.base.thread_priority import FOR_THE_EYE
from wamplex.core.base.window import Window
from wamplex.core.colour.screen_view import convert_for_screen
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.read import read_picture
from wamplex.core.known_answer.compare import answer_pixels, compare
from wamplex.core.known_answer.question import Question, TestDamage, make_question
from wamplex.core.known_answer.raw_question import make_raw_question
from wamplex.core.known_answer.truth_alignment import question_from_truth
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.source import Source
from wamplex.core.trial.developed_picture import develop_picture
from wamplex.core.trial.framed_picture import frame_picture


class AnswerThread(QThread):
    """One test: makes the question, compares all trials."""

    progressed = Signal(float, str)
    answered = Signal(object, object)  # Question, list of Answer
    failed = Signal(str)

    def __init__(
        self,
        store: PictureCache,
        source: Source,
        trials: Sequence[tuple[str, Recipe]],
        damage: TestDamage,
        truth: Path | None,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._store = store
        self._source, self._trials, self._damage, self._truth = source, trials, damage, truth
        self._progress = Progress(self.progressed.emit)

    def cancel(self) -> None:
        """Stop the test."""
        self._progress.cancel()

    def run(self) -> None:
        """The thread's work."""
        lower_priority(FOR_THE_EYE)
        try:
            first = self._trials[0][1]
            developed = develop_picture(self._store.get(self._source, self._progress), first, self._progress)
            picture = frame_picture(developed, first.framing)
            if self._truth is None and developed.raw is not None and developed.raw.mosaic is not None:
                question = make_raw_question(developed, first.factor)
            elif self._truth is None:
                question = make_question(picture, first.factor, self._damage)
            else:
                question = question_from_truth(picture, read_picture(self._truth, self._progress))
            answers = compare(question, self._trials, self._progress)
        except Cancelled:
            return
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory for this test."))
        else:
            self.answered.emit(question, answers)


@dataclass(frozen=True, eq=False)
class AnswerCropRequest:
    """A window of one trial's answer, beside the truth."""

    question: Question
    label: str
    recipe: Recipe
    window: Window


class AnswerCropWorker(LatestRequests[AnswerCropRequest]):
    """Makes what is looked at."""

    ready = Signal(object, object, object)  # AnswerLook, the answer and the truth as (h, w, 3) uint8 sRGB

    def make(self, request: AnswerCropRequest, done: int, total: int, progress: Progress) -> None:
        """Make both."""
        y, x = request.window.y, request.window.x
        truth = request.question.truth
        piece = truth.pixels[y : y + request.window.height, x : x + request.window.width]
        with suppress(Cancelled):
            answer = answer_pixels(request.question, request.recipe, request.window, progress)
            shown = (np.rint(convert_for_screen(p, truth) * 255).astype(np.uint8) for p in (answer, piece))
            self.ready.emit(request, *shown)
