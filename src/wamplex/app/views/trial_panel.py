"""The panel of the Trial step: the active trial, the map, what was struck."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wamplex.app.models.tray import Entry
from wamplex.app.models.viewport import Viewport
from wamplex.app.views.map_view import MapView
from wamplex.app.views.parts import button, clear, frame, label, row, side_panel

_KINDS = {"interpolation": "Interpolation", "learned": "Learned"}


class TrialPanel(QWidget):
    """Stamp and strike the active trial, put struck ones back."""

    stamp_asked = Signal(str)
    strike_asked = Signal(str)
    put_back_asked = Signal(str)

    def __init__(self, viewport: Viewport) -> None:
        super().__init__()
        self._letter = ""
        panel, inside = side_panel()
        outside = QVBoxLayout(self)
        outside.setContentsMargins(0, 0, 0, 0)
        outside.addWidget(panel)
        self._which = label("Trial", "heading")
        self._name = label("", "title")
        self._purpose = label("", "soft", wrap=True)
        self._steps = label("", "", wrap=True)
        self.map = MapView(viewport)
        self.stamp = button("Stamp", "Make this trial the one that is delivered", self._ask_stamp, "main")
        self.strike = button("Strike", "Drop this trial from the comparison", self._ask_strike)
        self._stamp_words = label("", "soft", wrap=True)
        self._struck_box = QVBoxLayout()
        self._struck_box.setSpacing(2)
        for part in (self._which, self._name, self._purpose, self._steps):
            inside.addWidget(part)
        inside.addSpacing(2)
        inside.addLayout(row(self.stamp, self.strike, None))
        inside.addWidget(self._stamp_words)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("Where you look", "heading"))
        inside.addWidget(self.map)
        inside.addSpacing(4)
        inside.addLayout(self._struck_box)
        inside.addStretch(1)

    @property
    def shown_name(self) -> str:
        """Name of the upscaler that the panel speaks of."""
        return self._name.text()

    def show_entry(self, entry: Entry | None, image: QImage | None = None) -> None:
        """Show a picture's active trial; ``image`` is given when the picture is another one."""
        usable = entry is not None and entry.usable
        self.stamp.setVisible(usable)
        self.strike.setVisible(usable)
        clear(self._struck_box)
        if entry is None or not usable or entry.size is None:
            for words in (self._which, self._name, self._purpose, self._steps, self._stamp_words):
                words.setText("")
            self.map.show_picture(None)
            return
        if image is not None:
            self.map.show_picture(image)
        trials = entry.trials
        trial = trials.find(trials.active)
        upscaler = trial.upscaler
        self._letter = trial.letter
        self._which.setText(f"Trial {trial.letter} · {_KINDS[upscaler.kind].lower()}")
        self._name.setText(upscaler.name)
        self._purpose.setText(upscaler.purpose)
        self._steps.setText(f"Here: {upscaler.steps(entry.size.factor)}")
        is_stamped = trials.stamped == trial.letter
        self.stamp.setText("Take the stamp off" if is_stamped else f"Stamp {trial.letter}")
        self.stamp.setAccessibleName(self.stamp.text())
        self.strike.setEnabled(trials.can_strike)
        self._stamp_words.setText(_stamp_words(entry))
        if trials.struck:
            self._struck_box.addWidget(label("Struck", "heading"))
        for gone in trials.struck:
            back = button(
                "put back", "Compare it again", partial(self.put_back_asked.emit, gone.letter), "link"
            )
            back.setAccessibleName(f"Put back trial {gone.letter}")
            self._struck_box.addLayout(row(label(f"{gone.letter}  {gone.upscaler.name}"), None, back))

    def _ask_stamp(self) -> None:
        self.stamp_asked.emit(self._letter)

    def _ask_strike(self) -> None:
        self.strike_asked.emit(self._letter)


def _stamp_words(entry: Entry) -> str:
    trials = entry.trials
    if trials.stamped is None:
        return "Nothing is stamped yet. Until you stamp a trial, this picture is delivered with Vellum."
    return f"{trials.stamped}, {trials.find(trials.stamped).upscaler.name}, is the one that is delivered."
