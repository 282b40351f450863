"""Preferences: few, all in one place, each with something that suits most."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtGui import QCloseEvent
from PySide6.QtWidgets import QCheckBox, QComboBox, QDialog, QVBoxLayout, QWidget

from wamplex.app.shared.number_field import NumberField
from wamplex.app.shared.widgets import ChoiceRow, button, frame, label, row, set_tooltip
from wamplex.app.tray.tray import Tray
from wamplex.app.window.guests_dialog import stored_guests_text
from wamplex.app.workers.machine.providers import ProvidersThread
from wamplex.core.base.errors import WamplexError
from wamplex.core.geometry.paper import PAPERS
from wamplex.core.geometry.size_text import UNITS
from wamplex.core.model.settings import load_settings, save_settings
from wamplex.core.trial.registry import find_upscaler, is_known
from wamplex.core.upscale.networks.execution import (
    current_execution,
    make_execution,
    provider_label,
    use_execution,
)
from wamplex.core.workflow.orders.stamp_history import forget_stamp_history, load_stamp_history

_SIZES: list[tuple[object, str, str]] = [
    (size, f"{size} %", f"Text and controls at {size} %, after a restart") for size in (100, 115, 130, 150)
]
_LIGHT: list[tuple[object, str, str]] = [
    (False, "Paper", "Paper-white panels, for a room with lights on"),
    (True, "Dimmed", "Dark panels, for a dark room"),
]
_MEMORY: list[tuple[object, str, str]] = [
    (0.0, "auto", "A quarter of this computer's memory, at most 4 GB"),
    (1.0, "1 GB", "Memory for decoded pictures at most 1 GB"),
    (2.0, "2 GB", "Memory for decoded pictures at most 2 GB"),
    (8.0, "8 GB", "Memory for decoded pictures at most 8 GB"),
]
_UNIT_WORDS = {"cm": "centimetres", "mm": "millimetres", "in": "inches"}


class PreferencesDialog(QDialog):
    """Everything counts at once, unless it says otherwise."""

    looks_changed = Signal()
    unit_chosen = Signal(str)
    memory_chosen = Signal(float)
    trials_changed = Signal()
    guests_asked = Signal()

    def __init__(self, tray: Tray, open_colours: Callable[[], object], parent: QWidget | None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Preferences")
        self.setMinimumWidth(600)
        self._tray = tray
        self._text = label("", "alert", wrap=True)
        self.light = ChoiceRow("Light", _LIGHT, lambda on: self._keep(self.looks_changed.emit, dimmed=on))
        self.sizes = ChoiceRow("Text and control size", _SIZES, lambda size: self._keep(size_percent=size))
        self.units = ChoiceRow("Unit", [(u, u, f"Prints in {_UNIT_WORDS[u]}") for u in UNITS], self._choose_unit)
        self.memory = ChoiceRow("Picture memory", _MEMORY, self._choose_memory)
        self.remembers = QCheckBox("Remember what I stamp, on this computer")
        self.remembers.setToolTip("Your past choices for similar pictures come first among the trials")
        self.remembers.toggled.connect(lambda on: self._keep(self.trials_changed.emit, remember_choices=on))
        self._chosen, self._first = label("", "soft", wrap=True), label("", "soft", wrap=True)
        self.guests = label("", "soft")
        self._make_print()
        self._make_execution()
        self._lay_out(open_colours)
        self._show()
        self.show_guests()

    def _make_print(self) -> None:
        self.paper = QComboBox()
        set_tooltip(self.paper, "Paper of new pictures", "Paper that new pictures start with")
        self.paper.addItem("no sheet", "")
        for paper in PAPERS:
            self.paper.addItem(paper.text, paper.name)
        for name, _, _ in load_settings().custom_papers:
            self.paper.addItem(name, name)
        self.paper.activated.connect(lambda _i: self._keep(first_paper=self.paper.currentData()))
        self.density = NumberField("Density of new pictures", "Density that new pictures start with", 64)
        self.density.entered.connect(lambda ppi: self._keep(first_density_ppi=ppi))

    def _make_execution(self) -> None:
        self.threads = NumberField("Threads", "Processor threads of networks; 0 for one per core", 52, minimum=0)
        self.threads.entered.connect(lambda n: self._execute(threads=int(n)))
        self.provider = QComboBox()
        set_tooltip(self.provider, "Networks run on", "Only devices whose results match the CPU's are listed")
        self._list_providers((current_execution().provider,))
        self._looking = ProvidersThread(self)
        self._looking.ready.connect(self._list_providers)
        self._looking.start()
        self.provider.activated.connect(lambda _i: self._execute(provider=self.provider.currentData()))

    def _list_providers(self, names: tuple[str, ...]) -> None:
        self.provider.clear()
        for name in names:
            self.provider.addItem(provider_label(name), name)
        self.provider.setCurrentIndex(max(self.provider.findData(current_execution().provider), 0))

    def closeEvent(self, event: QCloseEvent) -> None:
        """The look at providers ends by its own limits."""
        self._looking.wait()
        super().closeEvent(event)

    def _lay_out(self, open_colours: Callable[[], object]) -> None:
        inside = QVBoxLayout(self)
        inside.setContentsMargins(22, 16, 22, 16)
        inside.setSpacing(9)
        these = button("as this picture's", "Begin new pictures with the trials of this one", self.keep_trials)
        usual = button("default", "New pictures start with the default trials", self.usual_trials)
        forget = button("Forget all", "Forget all past choices", self.forget)
        guests = button("Browse…", "Show the stored guests, and remove some", self.guests_asked.emit)
        colours = button("Colours…", "Screen profile and soft proof", open_colours)
        for part in (
            label("Looks", "heading"),
            row(label("Light"), None, self.light),
            row(label("Text and control size (after restart)"), None, self.sizes),
            row(label("Colours on the screen"), None, colours),
            frame("rule"),
            label("New pictures", "heading"),
            row(label("Trials of new pictures"), None, these, usual),
            self._first,
            row(label("Paper"), None, self.paper),
            row(label("Density"), None, self.density, label("ppi")),
            row(label("Print sizes in"), None, self.units),
            frame("rule"),
            label("Past choices", "heading"),
            row(self.remembers, None, forget),
            self._chosen,
            frame("rule"),
            label("This computer", "heading"),
            row(label("Networks run on"), None, self.provider, self.threads, label("threads, 0 for all")),
            row(label("Memory for decoded pictures"), None, self.memory),
            row(label("Guests kept"), None, self.guests, guests),
            self._text,
            row(None, button("Close", "Apply", self.close, "main")),
        ):
            inside.addWidget(part) if isinstance(part, QWidget) else inside.addLayout(part)

    @property
    def text(self) -> str:
        """Texts of the dialog."""
        return f"{self._first.text()} {self._chosen.text()} {self._text.text()}"

    def keep_trials(self) -> None:
        """New pictures begin with the trials of the selected one."""
        entry = self._tray.current
        if entry is None or not entry.usable:
            self._text.setText("The tray has no picture with trials.")
            return
        remaining = entry.trials.without_guests().remaining
        self._keep(self.trials_changed.emit, first_trials=tuple(trial.upscaler_key for trial in remaining))

    def usual_trials(self) -> None:
        """New pictures begin with the usual trials."""
        self._keep(self.trials_changed.emit, first_trials=())

    def show_guests(self) -> None:
        """Some were removed meanwhile."""
        self.guests.setText(stored_guests_text())

    def forget(self) -> None:
        """Forget all past choices."""
        forget_stamp_history()
        self._show()
        self.trials_changed.emit()

    def _choose_unit(self, unit: object) -> None:
        self._keep(unit=unit)
        self.unit_chosen.emit(str(unit))

    def _choose_memory(self, gigabytes: object) -> None:
        self._keep(cache_gb=gigabytes)
        self.memory_chosen.emit(float(str(gigabytes)))

    def _execute(self, *, provider: str | None = None, threads: int | None = None) -> None:
        try:
            use_execution(make_execution(provider=provider, threads=threads))
        except WamplexError as error:
            self._text.setText(str(error))
            return
        now = current_execution()
        self._keep(provider=now.provider, threads=now.threads)

    def _keep(self, then: Callable[[], object] | None = None, **changes: Any) -> None:
        try:
            save_settings(load_settings().replace(**changes))
        except (WamplexError, OSError) as error:
            self._text.setText(str(error))
        else:
            self._text.setText("")
        self._show()
        if then is not None:
            then()

    def _show(self) -> None:
        settings, now = load_settings(), current_execution()
        self.light.show_value(settings.dimmed)
        self.sizes.show_value(settings.size_percent)
        self.units.show_value(settings.unit)
        self.memory.show_value(settings.cache_gb)
        self.paper.setCurrentIndex(max(self.paper.findData(settings.first_paper), 0))
        self.density.show_number(settings.first_density_ppi, 0)
        self.threads.show_number(now.threads, 0)
        self.provider.setCurrentIndex(max(self.provider.findData(now.provider), 0))
        self.remembers.blockSignals(True)
        self.remembers.setChecked(settings.remember_choices)
        self.remembers.blockSignals(False)
        keys = [key for key in settings.first_trials if is_known(key)]
        self._first.setText(", ".join(find_upscaler(k).name for k in keys) or "A good set for most pictures.")
        self._chosen.setText(_past_choices_text())


def _past_choices_text() -> str:
    """Most frequent choices by kind of picture."""
    history = load_stamp_history()
    lines = []
    for kind in history.kinds:
        counts = history.counts(kind)
        key, times = counts.most_common(1)[0]
        name = find_upscaler(key).name if is_known(key) else "a removed network"
        lines.append(f"{kind[0].upper()}{kind[1:]}: {name}, {times} of {counts.total()}.")
    return "\n".join(lines) or "Nothing yet."
