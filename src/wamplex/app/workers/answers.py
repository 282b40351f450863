"""Runs the known-answer test beside the window."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.latest import LatestWishes
from wamplex.app.workers.politeness import FOR_THE_EYE, stand_back
from wamplex.core.answer.compare import answer_pixels, compare
from wamplex.core.answer.match import question_from_truth
from wamplex.core.answer.question import Damage, Question, make_question
from wamplex.core.colour.view import for_screen
from wamplex.core.errors import Cancelled, told
from wamplex.core.framed import framed
from wamplex.core.intake.read import read_picture
from wamplex.core.intake.store import PictureStore
from wamplex.core.progress import Progress
from wamplex.core.recipe import Recipe
from wamplex.core.source import Source
from wamplex.core.window import Window


class AnswerThread(QThread):
    """One test: makes the question, compares all trials."""

    progressed = Signal(float, str)
    answered = Signal(object, object)  # Question, list of Answer
    failed = Signal(str)

    def __init__(
        self,
        store: PictureStore,
        source: Source,
        trials: Sequence[tuple[str, Recipe]],
        damage: Damage,
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
        stand_back(FOR_THE_EYE)
        try:
            picture = framed(self._store.get(self._source, self._progress), self._trials[0][1].framing)
            if self._truth is None:
                question = make_question(picture, self._trials[0][1].factor, self._damage)
            else:
                question = question_from_truth(picture, read_picture(self._truth, self._progress))
            answers = compare(question, self._trials, self._progress)
        except Cancelled:
            return
        except Exception as error:
            self.failed.emit(told(error, "There is not enough memory for this test."))
        else:
            self.answered.emit(question, answers)


@dataclass(frozen=True, eq=False)
class AnswerLook:
    """A window of one trial's answer, beside the truth."""

    question: Question
    recipe: Recipe
    window: Window


class AnswerLooks(LatestWishes[AnswerLook]):
    """Makes what is looked at."""

    made = Signal(object, object, object)  # AnswerLook, the answer and the truth as (h, w, 3) uint8 sRGB

    def fulfil(self, wish: AnswerLook, done: int, total: int, progress: Progress) -> None:
        """Make both."""
        y, x = wish.window.y, wish.window.x
        truth = wish.question.truth
        piece = truth.pixels[y : y + wish.window.height, x : x + wish.window.width]
        with suppress(Cancelled):
            answer = answer_pixels(wish.question, wish.recipe, wish.window, progress)
            shown = (np.rint(for_screen(p, truth) * 255).astype(np.uint8) for p in (answer, piece))
            self.made.emit(wish, *shown)
