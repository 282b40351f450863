"""Views of two results in one place: Curtain, Blink and Difference."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QComboBox, QStackedLayout, QVBoxLayout, QWidget

from wamplex.app.bench.pane import Pane, TileLookup
from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared.render_requests import Overlay, TileKey
from wamplex.app.shared.widgets import ChoiceRow, button, label, plain_widget, toolbar
from wamplex.app.trial.curtain import CurtainPane
from wamplex.app.trial.scene import SOURCE_CELL, UNPROOFED, Scene, ViewName

_RATES: list[tuple[object, str, str]] = [
    (1000, "slow", "Each trial is shown for a second"),
    (500, "medium", "Each trial is shown for half a second"),
    (250, "fast", "Each trial is shown for a quarter of a second"),
]


class PairView(QWidget):
    """Two chosen results: with a curtain between them, taking turns, or one minus the other."""

    change_asked = Signal(str, str)
    tiles_changed = Signal()

    def __init__(self, viewport: Viewport, lookup: TileLookup) -> None:
        super().__init__()
        self.kind: ViewName = "curtain"
        self._scene: Scene | None = None
        self._second_shown = False
        self._neighbours = False
        self.first, self.second = _chooser("First of the two"), _chooser("Second of the two")
        for chooser in (self.first, self.second):
            chooser.activated.connect(lambda _index: self._choose())
        self.swap = button("Swap", "Swap the two", self.exchange)
        self.turn = button("Turn", "Split top and bottom, or left and right", self._turn)
        self.rates = ChoiceRow("Rate", _RATES, self._set_rate)
        self.pause = button("Pause", "Pause (space bar)", self._run_timer)
        self.pause.setCheckable(True)
        self._text = label("", "soft")
        self.curtain = CurtainPane(viewport, lookup)
        self.plain = Pane(viewport, lookup)
        self.plain.setAccessibleName("One of two trials, or their difference")
        for pane in (self.curtain, self.plain):
            pane.tiles_changed.connect(self.tiles_changed)
        self._stack = QStackedLayout()
        self._stack.addWidget(self.curtain)
        self._stack.addWidget(self.plain)
        bench = plain_widget("bench")
        bench.setLayout(self._stack)
        bar = toolbar(self.first, self.second, self.swap, self.turn, self.rates, self.pause, self._text, None)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(0)
        inside.addWidget(bar)
        inside.addWidget(bench, 1)
        self._timer = QTimer(self)
        self._timer.setInterval(500)
        self._timer.timeout.connect(self._blink)
        self.rates.show_value(500)

    def show_as(self, kind: ViewName) -> None:
        """Curtain, blink or difference."""
        self.kind = kind
        self.turn.setVisible(kind == "curtain")
        self.rates.setVisible(kind == "blink")
        self.pause.setVisible(kind == "blink")
        self._stack.setCurrentWidget(self.curtain if kind == "curtain" else self.plain)
        self._run_timer()

    def show_scene(self, scene: Scene) -> None:
        """Show a picture; the chosen two stay while they are in the running."""
        self._scene = scene
        self._fill()
        self._show()

    def needed_tiles(self) -> Iterator[tuple[float, int, TileKey]]:
        """Tiles of both results."""
        if self._scene is None:
            return
        if self.kind == "curtain":
            tiles = list(self.curtain.needed_tiles())
        elif self.kind == "difference":
            tiles = list(self.plain.needed_tiles())
        else:
            letters = self._chosen()
            tiles = [
                tile
                for letter in letters
                for tile in self.plain.tiles_of(self._scene.recipe(letter), unproofed=letter == UNPROOFED)
            ]
        for distance, key in tiles:
            yield distance, 0, key

    def repaint_tile(self, key: TileKey) -> None:
        """A tile has come."""
        self.pane.repaint_tile(key)

    @property
    def pane(self) -> Pane:
        """The pane in view."""
        return self.curtain if self.kind == "curtain" else self.plain

    @property
    def now_shown(self) -> str:
        """Letter of the trial that blinking shows at the moment."""
        return self._chosen()[int(self._second_shown)]

    @property
    def paused(self) -> bool:
        """Whether blinking holds still."""
        return self.pause.isChecked()

    def forget(self) -> None:
        """Nothing is shown."""
        self._scene = None

    def toggle_pause(self) -> None:
        """Hold still, or go on; nothing where nothing blinks."""
        if self.kind == "blink":
            self.pause.click()

    @property
    def blinking(self) -> bool:
        """Whether it changes from one to the other by itself."""
        return self._timer.isActive()

    def _run_timer(self) -> None:
        if self.kind == "blink" and not self.paused and self.isVisible():
            self._timer.start()
        else:
            self._timer.stop()

    def showEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Blink again."""
        super().showEvent(event)
        self._run_timer()

    def hideEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """Nothing blinks unseen."""
        super().hideEvent(event)
        self._timer.stop()

    def _chosen(self) -> tuple[str, str]:
        return str(self.first.currentData()), str(self.second.currentData())

    def _choose(self) -> None:
        self._show()
        self.tiles_changed.emit()

    def exchange(self) -> None:
        one, two = self.first.currentIndex(), self.second.currentIndex()
        self.first.setCurrentIndex(two)
        self.second.setCurrentIndex(one)
        self._choose()

    def _turn(self) -> None:
        self.curtain.turn(not self.curtain.upright)

    def _set_rate(self, milliseconds: object) -> None:
        self.rates.show_value(milliseconds)
        self._timer.setInterval(int(str(milliseconds)))

    def _blink(self) -> None:
        self._second_shown = not self._second_shown
        self._show()

    def _fill(self) -> None:
        assert self._scene is not None
        names = [(t.letter, f"{self._scene.mark(t)}  {self._scene.name(t)}") for t in self._scene.trials]
        names.append((SOURCE_CELL, "Source"))
        letters_before = [str(c.currentData()) for c in (self.first, self.second)]
        if self._scene.proofed and self.kind != "difference":
            names.append((UNPROOFED, self._scene.unproofed_text))
            if self._scene.view.with_file and not self._neighbours:
                letters_before = [UNPROOFED, self._scene.entry.trials.active]
        self._neighbours = self._scene.proofed and self._scene.view.with_file
        letters = [letter for letter, _ in names]
        letters_now = [k if k in letters else None for k in letters_before]
        last = self._scene.trials[-1].letter
        letters_now[1] = letters_now[1] or (last if letters_now[0] != last else letters[0])
        letters_now[0] = letters_now[0] or next(letter for letter in letters if letter != letters_now[1])
        for chooser, letter in zip((self.first, self.second), letters_now, strict=True):
            chooser.clear()
            for own, text in names:
                chooser.addItem(text, own)
            chooser.setCurrentIndex(letters.index(str(letter)))

    def _show(self) -> None:
        scene = self._scene
        if scene is None or scene.entry.size is None:
            return
        one, two = self._chosen()
        self._text.setText("")
        shown, overlay = one, scene.overlay
        if self.kind == "blink":
            shown = self.now_shown
            chooser = self.second if self._second_shown else self.first
            self._text.setText(f"now {chooser.currentText()}")
        elif self.kind == "difference":
            overlay = Overlay(minus=scene.recipe(two))
            self._text.setText("amplified four times; mid-grey means no difference")
        source, size = scene.entry.source, scene.entry.size
        placeholder = scene.placeholder
        self.pane.show_result(source, scene.recipe(shown), size, placeholder, overlay, unproofed=shown == UNPROOFED)
        if self.kind == "curtain":
            self.curtain.show_second(scene.recipe(two), unproofed=two == UNPROOFED)


def _chooser(name: str) -> QComboBox:
    combo = QComboBox()
    combo.setAccessibleName(name)
    combo.setToolTip(name)
    combo.setMinimumWidth(120)
    return combo
