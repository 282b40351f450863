"""The panel of the Trial step: the active trial, the map, what was struck."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QVBoxLayout, QWidget

from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared.widgets import button, clear, frame, label, row, scrolling_panel
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.trials import Trial
from wamplex.app.trial.map_view import MapView
from wamplex.app.trial.readings_table import ReadingsTable
from wamplex.app.trial.values_editor import ValuesEditor
from wamplex.core.trial.registry import find_upscaler

_KINDS = {"interpolation": "Interpolation", "learned": "Learned", "guest": "Guest"}


class TrialPanel(QWidget):
    """Stamp and strike the active trial, put struck ones back."""

    stamp_asked = Signal(str)
    strike_asked = Signal(str)
    put_back_asked = Signal(str)
    differ_asked = Signal()
    pair_choice_asked = Signal()
    better_asked = Signal(int)  # 0 for the left of a pair, 1 for the right
    change_asked = Signal(str, str)  # what is done, letter
    values_chosen = Signal(str, object)  # letter, Values or None for the suggested ones

    def __init__(self, viewport: Viewport) -> None:
        super().__init__()
        self._letter = ""
        self._which = label("Trial", "heading")
        self._name = label("", "title")
        self._purpose = label("", "soft", wrap=True)
        self._steps = label("", "", wrap=True)
        self._expected = label("", "", wrap=True)
        self._expected.setToolTip("As predicted from what was measured: nine in ten pictures lie between the two")
        self._warning = label("", "alert", wrap=True)
        self._stamp_text = label("", "soft", wrap=True)
        self._map_heading = label("Where you look", "heading")
        self._struck_box = QVBoxLayout()
        self._struck_box.setSpacing(2)
        self.map = MapView(viewport)
        self.readings = ReadingsTable()
        self.values = ValuesEditor()
        self.values.chosen.connect(lambda values: self.values_chosen.emit(self._letter, values))
        self._make_buttons()
        self._make_pair_buttons()
        self._build()

    def _make_buttons(self) -> None:
        self.stamp = button("Stamp", "Deliver this trial", self._ask_stamp, "main")
        self.strike = button("Strike", "Drop this trial from the comparison", self._ask_strike)
        self.duplicate = button(
            "duplicate",
            "Add a trial with the same upscaler and other values",
            lambda: self._ask("duplicate"),
            "link",
        )
        self.differ = button(
            "Find where the trials differ most",
            "Compare the trials in many places and add the most different ones to the sheet as spots",
            self.differ_asked.emit,
            "link",
        )
        self.left = button("◂", "Move this trial to the left", lambda: self._ask("move_left"))
        self.right = button("▸", "Move this trial to the right", lambda: self._ask("move_right"))
        self.left.setAccessibleName("Move to the left")
        self.right.setAccessibleName("Move to the right")

    def _make_pair_buttons(self) -> None:
        self.lineage = button(
            "Choose by pairs",
            "Compare two at a time until one is left",
            self.pair_choice_asked.emit,
        )
        self.left_better = button("Left is better", "Strike the right one", lambda: self.better_asked.emit(0), "main")
        self.right_better = button("Right is better", "Strike the left one", lambda: self.better_asked.emit(1), "main")

    def _build(self) -> None:
        panel, inside = scrolling_panel()
        outside = QVBoxLayout(self)
        outside.setContentsMargins(0, 0, 0, 0)
        outside.addWidget(panel)
        inside.addLayout(row(self._which, None, self.left, self.right, spacing=4))
        above: tuple[QWidget, ...] = (
            self._name,
            self._purpose,
            self._warning,
            self._steps,
            self._expected,
            self.values,
        )
        for part in above:
            inside.addWidget(part)
        inside.addSpacing(2)
        inside.addLayout(row(self.stamp, None, self.duplicate, 4, self.strike, spacing=4))
        inside.addWidget(self._stamp_text)
        inside.addLayout(row(self.lineage, None))
        inside.addLayout(row(self.left_better, self.right_better, None, spacing=4))
        below: tuple[QWidget, ...] = (
            frame("rule"),
            self.differ,
            self.readings,
            self._map_heading,
            self.map,
        )
        for part in below:
            inside.addWidget(part)
        inside.addSpacing(4)
        inside.addLayout(self._struck_box)
        inside.addStretch(1)

    @property
    def shown_name(self) -> str:
        """Name of the upscaler that the panel speaks of."""
        return self._name.text()

    def show_map(self, shown: bool) -> None:
        """The map says nothing where spots are looked at."""
        self._map_heading.setVisible(shown)
        self.map.setVisible(shown)

    def show_entry(self, entry: TrayEntry | None, image: QImage | None = None, hidden_as: str | None = None) -> None:
        """Show a picture's active trial; ``image`` is given when the picture is another one.

        ``hidden_as`` is the number the trial goes by while its name is hidden.
        """
        usable = entry is not None and entry.usable
        for control in (self.stamp, self.values, self.readings, self._steps, self._expected):
            control.setVisible(usable)
        for control in (self.strike, self.duplicate, self.left, self.right, self.differ):
            control.setVisible(usable)
        self.show_pairs(False, False)
        clear(self._struck_box)
        if entry is None or not usable:
            labels = (
                self._which,
                self._name,
                self._purpose,
                self._warning,
                self._steps,
                self._expected,
                self._stamp_text,
            )
            for text in labels:
                text.setText("")
            self.map.show_picture(None)
            return
        if image is not None:
            self.map.show_picture(image)
        self._show_trial(entry)
        if hidden_as is not None:
            self._hide_name(hidden_as)
        trials = entry.trials
        is_stamped = trials.stamped == self._letter
        self.stamp.setText("Remove the stamp" if is_stamped else f"Stamp {hidden_as or self._letter}")
        self.stamp.setAccessibleName(self.stamp.text())
        self.strike.setEnabled(trials.can_strike)
        self._stamp_text.setText(_stamp_text(entry, hidden=hidden_as is not None))
        self._show_struck(trials.struck, hidden_as is not None)

    def _show_trial(self, entry: TrayEntry) -> None:
        assert entry.size is not None
        trial = entry.trials.find(entry.trials.active)
        upscaler, recipe = trial.upscaler, entry.trial_recipe(trial)
        self._letter = trial.letter
        self._which.setText(f"Trial {trial.letter} · {_KINDS[upscaler.kind].lower()}")
        self._name.setText(upscaler.name)
        reason = f" {trial.reason[0].upper()}{trial.reason[1:]}." if trial.reason else ""
        self._purpose.setText(upscaler.purpose + reason)
        self._steps.setText(f"Here: {upscaler.steps(entry.size.factor, recipe.values)}")
        gain = None if entry.suggested is None else entry.suggested.expected_gain(upscaler.key, recipe.values)
        self._expected.setText("" if gain is None else f"Likely {gain.text}.")
        self._expected.setVisible(gain is not None)
        warning_text = entry.warning(trial)
        self._warning.setText(warning_text or "")
        self._warning.setVisible(warning_text is not None)
        self.values.show_values(trial, recipe.values, entry.suggested_values(upscaler.key), entry.suggested)

    def _show_struck(self, struck: Sequence[Trial], hidden: bool) -> None:
        if struck:
            self._struck_box.addWidget(label("Struck", "heading"))
        for gone in struck:
            back = button(
                "put back", "Put back into the comparison", partial(self.put_back_asked.emit, gone.letter), "link"
            )
            back.setAccessibleName(f"Put back trial {gone.letter}")
            name = "a struck trial" if hidden else f"{gone.letter}  {gone.upscaler.name}"
            self._struck_box.addLayout(row(label(name), None, back))

    def show_pairs(self, offered: bool, open_: bool) -> None:
        """Offer to choose by pairs, or ask which of two is better."""
        self.lineage.setVisible(offered and not open_)
        for control in (self.left_better, self.right_better):
            control.setVisible(open_)
        if open_:
            self._name.setText("Which is better?")
            for control in (self.stamp, self.strike, self.duplicate, self.left, self.right):
                control.hide()

    def _hide_name(self, number: str) -> None:
        self._which.setText("Blind choice")
        self._name.setText(f"Trial {number}")
        self._purpose.setText(
            "Names, values and readings are hidden and the columns are shuffled. Strike what fails and stamp "
            "what you like best; then the names are shown."
        )
        for tells in (
            self._steps,
            self._expected,
            self._warning,
            self.values,
            self.readings,
            self.duplicate,
            self.left,
            self.right,
        ):
            tells.hide()

    def _ask_stamp(self) -> None:
        self.stamp_asked.emit(self._letter)

    def _ask(self, question: str) -> None:
        self.change_asked.emit(question, self._letter)

    def _ask_strike(self) -> None:
        self.strike_asked.emit(self._letter)


def _stamp_text(entry: TrayEntry, *, hidden: bool) -> str:
    trials = entry.trials
    if trials.stamped is None and hidden:
        return "Nothing is stamped yet."  # what is suggested would sway a blind choice
    if trials.stamped is None:
        name = find_upscaler(entry.suggested_upscaler).name
        why = "" if entry.suggested is None else f", because {entry.suggested.reason}"
        return f"Nothing is stamped yet. Until you stamp a trial, this picture is delivered with {name}{why}."
    return f"{trials.stamped}, {trials.find(trials.stamped).upscaler.name}, is the one that is delivered."
