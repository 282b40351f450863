"""Runs the known-answer test beside the window."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QThread, Signal

from wamplex.app.workers.politeness import FOR_THE_EYE, stand_back
from wamplex.app.workers.tiles import Shown
from wamplex.core.answer.compare import answer_pixels, compare
from wamplex.core.answer.match import question_from_truth
from wamplex.core.answer.question import Damage, Question, make_question
from wamplex.core.colour.convert import for_display
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


def beside_truth(question: Question, recipe: Recipe, window: Window) -> tuple[Shown, Shown]:
    """A trial's answer and the truth inside a window, (h, w, 3) uint8 sRGB each, for looking at."""
    y, x = window.y, window.x
    truth = question.truth.pixels[y : y + window.height, x : x + window.width]
    made = answer_pixels(question, recipe, window)
    one, two = (np.rint(for_display(p, question.truth) * 255).astype(np.uint8) for p in (made, truth))
    return one, two
