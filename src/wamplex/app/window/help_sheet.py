"""The help sheet: the job in ten lines, and all keys."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from wamplex.app.shared.keys import KEYS, KeyBinding
from wamplex.app.shared.widgets import label, plain_widget

JOB = (
    "Add pictures: with the button, or drop files or a folder.",
    "Assess lists what was measured, and why. Tick the suggestions you want; drag the spots to where it matters.",
    "Size: crop and straighten, then choose a factor, pixels, a print size, or a sheet of paper.",
    "Trial shows the same spots in several versions. Hold Q to see the source.",
    "Strike the versions that look wrong: stair-steps, halos, smears, plastic skin, invented patterns.",
    "Not sure? Hide the names and choose blindly, or run the known-answer test.",
    "Stamp the best trial. If none is stamped, the suggestion is delivered.",
    "Finish, if needed: blend the source over a face, sharpen for paper, add grain.",
    "Deliver writes the file and reads it back. Compare it with its source.",
    "More pictures like this one? Select them in the tray and copy the decisions.",
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
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scroll)

    def _job(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        layout.setSpacing(9)
        layout.addWidget(label("From the picture to the print", "headline"))
        for number, text in enumerate(JOB, start=1):
            layout.addWidget(label(f"{number}.  {text}", wrap=True))
        layout.addStretch(1)
        return layout

    def _keys(self) -> QVBoxLayout:
        layout = QVBoxLayout()
        layout.setSpacing(6)
        layout.addWidget(label("Keys", "headline"))
        for where in dict.fromkeys(entry.where for entry in KEYS):
            layout.addSpacing(4)
            layout.addWidget(label(where, "heading"))
            layout.addLayout(_table([entry for entry in KEYS if entry.where == where]))
        layout.addStretch(1)
        return layout


def _table(entries: list[KeyBinding]) -> QGridLayout:
    grid = QGridLayout()
    grid.setVerticalSpacing(3)
    grid.setHorizontalSpacing(14)
    grid.setColumnMinimumWidth(0, 108)
    grid.setColumnStretch(1, 1)
    for line, entry in enumerate(entries):
        keys = label(" or ".join(entry.keys), "small-strong")
        grid.addWidget(keys, line, 0, Qt.AlignmentFlag.AlignTop)
        grid.addWidget(label(entry.text, "small", wrap=True), line, 1)
    return grid
