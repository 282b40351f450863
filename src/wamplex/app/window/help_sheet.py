"""The help sheet: the job in ten lines, and all keys."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from wamplex.app.shared.keys import KEYS, KeyBinding
from wamplex.app.shared.widgets import label, plain_widget

JOB = (
    "Add pictures: with the button, by dropping them, or a whole folder.",
    "Assess says what was found, and why. Tick what it shall do; drag the spots to where it matters.",
    "Size: crop and straighten, then choose a factor, pixels, a print size, or a sheet of paper.",
    "Trial shows the same spots enlarged in several ways. Hold Q to see the source.",
    "Strike what fails: stair-steps, halos, smears, plastic skin, patterns that were never there.",
    "Not sure? Hide the names and choose blindly, or run the known-answer test.",
    "Stamp the trial that holds. While none is stamped, the suggested one is delivered.",
    "Finish, if it wants it: lay the source over a face, sharpen for paper, add grain.",
    "Deliver writes the file and reads it back. Look at it beside its source.",
    "More pictures alike? Choose them in the tray and take the decisions over.",
)


class HelpSheet(QDialog):
    """Drawn from the very table that keys are bound from."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Help")
        self.resize(940, 660)
        inside = QHBoxLayout()
        inside.setContentsMargins(24, 18, 24, 18)
        inside.setSpacing(34)
        inside.addLayout(self._job(), 1)
        inside.addLayout(self._keys(), 1)
        page = plain_widget("panel")
        page.setLayout(inside)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # it follows what is reached in it
        scroll.setWidget(page)
        scroll.setWidgetResizable(True)
        scroll.setAccessibleName("Help")
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)

    def _job(self) -> QVBoxLayout:
        made = QVBoxLayout()
        made.setSpacing(9)
        made.addWidget(label("From the picture to the print", "headline"))
        for number, words in enumerate(JOB, start=1):
            made.addWidget(label(f"{number}.  {words}", wrap=True))
        made.addStretch(1)
        return made

    def _keys(self) -> QVBoxLayout:
        made = QVBoxLayout()
        made.setSpacing(6)
        made.addWidget(label("Keys", "headline"))
        for where in dict.fromkeys(entry.where for entry in KEYS):
            made.addSpacing(4)
            made.addWidget(label(where, "heading"))
            made.addLayout(_table([entry for entry in KEYS if entry.where == where]))
        made.addStretch(1)
        return made


def _table(entries: list[KeyBinding]) -> QGridLayout:
    made = QGridLayout()
    made.setVerticalSpacing(3)
    made.setHorizontalSpacing(14)
    made.setColumnMinimumWidth(0, 108)
    made.setColumnStretch(1, 1)
    for line, entry in enumerate(entries):
        keys = label(" or ".join(entry.keys), "small-strong")
        made.addWidget(keys, line, 0, Qt.AlignmentFlag.AlignTop)
        made.addWidget(label(entry.words, "small", wrap=True), line, 1)
    return made
