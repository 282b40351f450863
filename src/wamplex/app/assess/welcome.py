"""What an empty tray shows: what Wamplex does, and where to start."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wamplex.app.shared.widgets import button, frame, label, row

_WORDS = (
    ("1", "Assess", "says what is wrong with a picture, and why it thinks so."),
    ("2", "Size", "crops it, and turns factor, pixels and paper into one another."),
    ("3", "Trial", "enlarges the same places in several ways: strike what fails."),
    ("4", "Finish", "mends what went wrong, sharpens for the paper, adds grain."),
    ("5", "Deliver", "writes the file for the print, and reads it back."),
)
_WIDTH = 560


class Welcome(QWidget):
    """A card on the bench."""

    add_asked = Signal()
    demo_asked = Signal()
    help_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        card = frame("sheet")
        card.setFixedWidth(_WIDTH)
        inside = QVBoxLayout(card)
        inside.setContentsMargins(34, 28, 34, 28)
        inside.setSpacing(10)
        inside.addWidget(label("From a small picture to a large print", "title"))
        inside.addWidget(label("Drop pictures here, or a whole folder; raw files too.", wrap=True))
        inside.addSpacing(6)
        for number, name, text in _WORDS:
            mark = label(number, "mark")
            mark.setFixedSize(20, 20)
            mark.setAlignment(Qt.AlignmentFlag.AlignCenter)
            step = label(name, "strong")
            step.setFixedWidth(62)
            inside.addLayout(row(mark, step, label(text, wrap=True), spacing=10))
        inside.addSpacing(10)
        self.add_button = button("Add pictures…", "Choose files (Ctrl+O)", self.add_asked.emit, "main")
        self.demo_button = button("Look at the demo", "Six made-up pictures of a puppet theatre", self.demo_asked.emit)
        self.help_button = button("Help", "The job in ten lines, and all keys (F1)", self.help_asked.emit)
        inside.addLayout(row(self.add_button, self.demo_button, self.help_button, None))
        layout = QVBoxLayout(self)
        layout.addStretch(1)
        layout.addWidget(card, 0, Qt.AlignmentFlag.AlignHCenter)
        layout.addStretch(1)
