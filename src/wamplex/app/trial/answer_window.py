"""The known-answer test: options, the ranked table, and a result beside the truth."""

from __future__ import annotations

import json
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QCloseEvent, QPixmap
from PySide6.QtWidgets import (
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QHeaderView,
    QLabel,
    QProgressBar,
    QSpinBox,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.shared.images import to_image
from wamplex.app.shared.widgets import button, label, plain_widget, row
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.workers.rendering.answers import AnswerCropRequest, AnswerCropWorker, AnswerThread
from wamplex.core.base.window import Window
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.formats import FILE_DIALOG_PATTERNS
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.known_answer.compare import Answer, as_csv, as_rows
from wamplex.core.known_answer.question import Question, TestDamage
from wamplex.core.model.recipe import Recipe
from wamplex.core.trial.registry import FRAMES_UPSCALERS

_KERNELS = (("bicubic", "Bicubic"), ("lanczos", "Lanczos 3"), ("area", "Area"))
_COLUMNS = (
    ("trial", "Trial"),
    ("psnr_db", "PSNR, dB"),
    ("ssim", "SSIM"),
    ("gmsd", "GMSD"),
    ("ciede2000", "ΔE"),
    ("seconds", "Seconds"),
    ("stair-steps", "Stair-steps, °"),
    ("ringing", "Halos, levels"),
    ("invented-detail", "Invented, %"),
)
_LOOK_PX = (460, 250)

_OF_PIXELS = (
    "The picture is shrunk, enlarged again by every trial, and compared with the original. Choose the damage "
    "that your picture had before you got it."
)
_OF_RAW = (
    "The picture is shrunk in linear light, turned into a mosaic with the noise of your file, enlarged by "
    "every trial, and compared with the original."
)


class AnswerWindow(QDialog):
    """Everything about one picture's known answer."""

    def __init__(self, entry: TrayEntry, store: PictureCache, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle(f"Known-answer test · {entry.path.name}")
        self.resize(960, 660)
        self._entry, self._store = entry, store
        self._truth: Path | None = None
        self._thread: AnswerThread | None = None
        self.question: Question | None = None
        self.answers: list[Answer] = []
        self._recipes: dict[str, Recipe] = {}
        self._left_out: tuple[str, ...] = ()
        self._look_at: AnswerCropRequest | None = None
        self._looks = AnswerCropWorker(self)
        self._looks.ready.connect(self._show_look)
        self._looks.broke.connect(lambda sentence: self.text.setText(sentence))
        self._looks.start()
        self._make_controls()
        self._lay_out()
        self.run_button.setFocus()

    def run_test(self) -> None:
        """Start the test with what is set."""
        if self._thread is not None:
            return
        # A guest shows the picture itself: there is nothing it could make of a smaller one. Nor are there frames of it.
        is_complete = self._truth is not None and self._entry.framing == Framing()
        remaining = self._entry.trials.remaining
        one_frame = [t for t in remaining if t.upscaler not in FRAMES_UPSCALERS]
        asked = [t for t in one_frame if is_complete or t.upscaler.kind != "guest"]
        self._left_out = tuple(t.letter for t in remaining if t not in asked)
        if not asked:
            self.text.setText("Guests and joined frames cannot be tested. Add another trial first.")
            return
        trials = [(f"{t.letter}  {t.upscaler.name}", self._entry.trial_recipe(t)) for t in asked]
        self._recipes = dict(trials)
        quality = self.quality.value()
        damage = TestDamage(self.kernel.currentData(), None if quality == 0 else quality, float(self.noise.value()))
        self._thread = AnswerThread(self._store, self._entry.source, trials, damage, self._truth, self)
        self._thread.progressed.connect(self._show_progress)
        self._thread.answered.connect(self._show_answers)
        self._thread.failed.connect(self.text.setText)
        self._thread.finished.connect(self._ended)
        self.run_button.setEnabled(False)
        self.cancel_button.setEnabled(True)
        self.text.setText("")
        self._thread.start()

    def closeEvent(self, event: QCloseEvent) -> None:
        """End the test with the window."""
        self._stop()
        self._looks.end()
        super().closeEvent(event)

    def reject(self) -> None:
        """Escape ends the test too."""
        self._stop()
        self._looks.end()
        super().reject()

    def _make_controls(self) -> None:
        self.kernel = QComboBox()
        for value, text in _KERNELS:
            self.kernel.addItem(text, value)
        self.kernel.setToolTip("Kernel that shrinks the picture")
        self.kernel.setAccessibleName("Shrink with")
        suggestion = None if self._entry.suggested is None else self._entry.suggested.values
        self.quality = _number(
            0, 100, round(100 - suggestion.compression) if suggestion and suggestion.compression else 0, "none"
        )
        self.quality.setToolTip("JPEG quality of the shrunk picture; none leaves it uncompressed")
        self.quality.setAccessibleName("JPEG quality")
        self.noise = _number(0, 50, round(suggestion.noise / 2) if suggestion else 0, "none")
        self.noise.setToolTip("Levels of noise added to the shrunk picture")
        self.noise.setAccessibleName("Noise in levels")
        self.truth_button = button(
            "Truth from a file…", "Compare with a larger original instead of shrinking", self._choose_truth
        )
        self.run_button = button("Run the test", "Shrink, enlarge with every trial, compare", self.run_test, "main")
        self.cancel_button = button("Cancel", "Stop the test", self._stop)
        self.cancel_button.setEnabled(False)
        self.copy_button = button("Copy", "Copy the table as text for a spreadsheet", self._copy)
        self.save_button = button("Save…", "Save the table as CSV or JSON", self._save)
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.text = label("", "soft", wrap=True)
        self.table = QTableWidget(0, len(_COLUMNS))
        self.table.setHorizontalHeaderLabels([text for _, text in _COLUMNS])
        names = QTableWidgetItem(_COLUMNS[0][1])
        names.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.setHorizontalHeaderItem(0, names)
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.setShowGrid(False)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.table.setAccessibleName("Results, the closest to the truth first")
        self.table.itemSelectionChanged.connect(self._look)
        self.looks = (QLabel(), QLabel())
        self.crop_text = (label("", "soft"), label("", "soft"))

    def _lay_out(self) -> None:
        panel = plain_widget("panel")
        inside = QVBoxLayout(panel)
        inside.setContentsMargins(16, 14, 16, 14)
        inside.addWidget(label("Which trial is closest to the truth?", "headline"))
        of_raw = self._entry.has_mosaic
        inside.addWidget(label(_OF_RAW if of_raw else _OF_PIXELS, "soft", wrap=True))
        damage = plain_widget("panel")
        controls = (
            row(
                label("Shrink with"), self.kernel, 8, label("then JPEG quality"), self.quality, 8,
                label("and noise"), self.noise,
            )
        )  # fmt: skip
        controls.setContentsMargins(0, 0, 0, 0)
        damage.setLayout(controls)
        damage.setVisible(not of_raw)
        inside.addLayout(row(damage, None, self.truth_button))
        inside.addLayout(row(self.run_button, self.cancel_button, self.bar, self.copy_button, self.save_button))
        inside.addWidget(self.text)
        inside.addWidget(self.table, 1)
        looks = row(*self.looks, None)
        inside.addLayout(row(*self.crop_text, None))
        for image, text in zip(self.looks, self.crop_text, strict=True):
            image.setFixedSize(*_LOOK_PX)
            text.setFixedWidth(_LOOK_PX[0])
        inside.addLayout(looks)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(panel)
        self.copy_button.setEnabled(False)
        self.save_button.setEnabled(False)

    def _show_progress(self, fraction: float, text: str) -> None:
        self.bar.setValue(round(100 * fraction))
        self.text.setText(text)

    def _show_answers(self, question: Question, answers: list[Answer]) -> None:
        self.question, self.answers = question, answers
        text = f"{question.text[0].upper()}{question.text[1:]}. Closest to the truth first."
        if self._left_out:
            text += f" Left out: {', '.join(self._left_out)}. Guests and joined frames cannot be tested."
        self.text.setText(text)
        self.table.setRowCount(len(answers))
        for number, (answer, values) in enumerate(zip(answers, as_rows(answers), strict=True)):
            for column, (key, _) in enumerate(_COLUMNS):
                text = answer.label if key == "trial" else f"{values[key]:.{_decimals(key)}f}"
                item = QTableWidgetItem(text)
                if column > 0:
                    item.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(number, column, item)
        self.copy_button.setEnabled(True)
        self.save_button.setEnabled(True)
        self.table.selectRow(0)

    def _look(self) -> None:
        """Show the chosen answer beside the truth, at 100 %."""
        rows = self.table.selectionModel().selectedRows()
        if not rows or self.question is None:
            return
        answer = self.answers[rows[0].row()]
        truth = self.question.truth
        width, height = min(_LOOK_PX[0], truth.width), min(_LOOK_PX[1], truth.height)
        window = Window((truth.width - width) // 2, (truth.height - height) // 2, width, height)
        self._look_at = AnswerCropRequest(self.question, answer.label, self._recipes[answer.label], window)
        self._looks.request([self._look_at])

    def _show_look(self, look: AnswerCropRequest, answer: object, truth: object) -> None:
        if look is self._look_at:
            for image, pixels in zip(self.looks, (answer, truth), strict=True):
                image.setPixmap(QPixmap.fromImage(to_image(pixels)))  # type: ignore[arg-type]
            # Only now: until then the answer looked at before is still there.
            self.crop_text[0].setText(f"{look.label}, 100 %")
            self.crop_text[1].setText("the truth, 100 %")

    def _choose_truth(self) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, "The large original", "", f"Pictures ({FILE_DIALOG_PATTERNS})")
        if chosen:
            self.use_truth(Path(chosen))

    def use_truth(self, path: Path) -> None:
        """Compare with a file."""
        self._truth = path
        for control in (self.kernel, self.quality, self.noise):
            control.setEnabled(False)
        self.text.setText(f"The truth is {path.name}.")

    def _copy(self) -> None:
        QApplication.clipboard().setText(as_csv(self.answers).replace(",", "\t"))
        self.text.setText("The table is copied.")

    def _save(self) -> None:
        name = f"{self._entry.path.stem}-known-answer.csv"
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the table", name, "CSV (*.csv);;JSON (*.json)")
        if chosen:
            self.save_to(Path(chosen))

    def save_to(self, path: Path) -> None:
        """Write the table."""
        as_json = path.suffix.lower() == ".json"
        text = json.dumps(as_rows(self.answers), indent=2) if as_json else as_csv(self.answers)
        try:
            path.write_text(text)
        except OSError as error:
            self.text.setText(f"{path.name} cannot be written: {error.strerror}.")
        else:
            self.text.setText(f"Saved as {path.name}.")

    def _stop(self) -> None:
        if self._thread is not None:
            self._thread.cancel()
            self._thread.wait()

    def _ended(self) -> None:
        self._thread = None
        self.run_button.setEnabled(True)
        self.cancel_button.setEnabled(False)
        self.bar.setValue(0)


def _number(minimum: int, maximum: int, value: int, none_label: str) -> QSpinBox:
    spin_box = QSpinBox()
    spin_box.setRange(minimum, maximum)
    spin_box.setSpecialValueText(none_label)
    spin_box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
    spin_box.setFixedWidth(52)
    spin_box.setValue(value)
    return spin_box


def _decimals(key: str) -> int:
    return {"ssim": 4, "gmsd": 4}.get(key, 2)
