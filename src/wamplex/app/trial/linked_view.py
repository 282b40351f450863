"""The Linked view: all trials side by side, in one row or two, moving together."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from wamplex.app.bench.pane import Pane, TileLookup
from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared.render_requests import Overlay, TileKey
from wamplex.app.shared.widgets import clear_grid, frame, label, plain_widget, row
from wamplex.app.trial.scene import UNPROOFED, Scene
from wamplex.app.trial.trial_head import TrialHead

HEAD_PX = 30
_MOST_IN_ROW = 3


class LinkedView(QWidget):
    """A pane with a head for each trial."""

    change_asked = Signal(str, str)  # what is done, letter
    tiles_changed = Signal()

    def __init__(self, viewport: Viewport, lookup: TileLookup) -> None:
        super().__init__()
        self.panes: dict[str, Pane] = {}
        self.heads: dict[str, TrialHead] = {}
        self._shown: object = None
        self._viewport = viewport
        self._lookup = lookup
        self._scene: Scene | None = None
        self.rows = 1
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(4)

    def show_scene(self, scene: Scene) -> None:
        """Show the trials; the row is made anew when others are in the running."""
        note = scene.unproofed_text if scene.proofed and scene.view.with_file else ""
        self._scene = scene
        shown = [self.rows, note, *((scene.entry.source, t.letter, scene.name(t)) for t in scene.trials)]
        if shown != self._shown:
            self._shown = shown
            self._build(scene)
        if note:
            self._show_in(self.panes[UNPROOFED], scene, UNPROOFED)
        for trial in scene.trials:
            pane, head = self.panes[trial.letter], self.heads[trial.letter]
            self._show_in(pane, scene, trial.letter)
            trials = scene.entry.trials
            head.mark(trial.letter == trials.active, trial.letter == trials.stamped)
            head.allow_strike(trials.can_strike)
            head.show_source(scene.source_pressed)

    @property
    def two_rows_show_more(self) -> bool:
        """Whether the whole picture is shown larger in two rows."""
        count = self._count()
        size = None if self._scene is None else self._scene.entry.size
        if count <= _MOST_IN_ROW or size is None:
            return False

        def scale(rows: int) -> float:
            width, height = self.width() / -(-count // rows), self.height() / rows - HEAD_PX
            return min(width / size.width_px, height / size.height_px)

        return scale(2) > scale(1)

    def _count(self) -> int:
        scene = self._scene
        return 0 if scene is None else len(scene.trials) + (scene.proofed and scene.view.with_file)

    @staticmethod
    def _show_in(pane: Pane, scene: Scene, letter: str) -> None:
        entry = scene.entry
        assert entry.size is not None
        plain = letter == UNPROOFED
        recipe = scene.recipe(letter)
        # What a print cannot show is a matter of the proof.
        overlay = Overlay() if plain and scene.overlay.outside else scene.overlay
        pane.show_result(entry.source, recipe, entry.size, scene.placeholder, overlay, unproofed=plain)

    def needed_tiles(self) -> Iterator[tuple[float, int, TileKey]]:
        """Tiles in view: distance from the middle, number of the pane, key."""
        for number, pane in enumerate(self.panes.values()):
            for distance, key in pane.needed_tiles():
                yield distance, number, key

    def repaint_tile(self, key: TileKey) -> None:
        """A tile has come."""
        for pane in self.panes.values():
            pane.repaint_tile(key)

    @property
    def pane(self) -> Pane | None:
        """One pane, to say what is in view."""
        return next(iter(self.panes.values()), None)

    def forget(self) -> None:
        """Nothing is shown."""
        self._shown = self._scene = None
        self._clear()

    def _clear(self) -> None:
        clear_grid(self._grid)
        self.panes, self.heads = {}, {}

    def _build(self, scene: Scene) -> None:
        self._clear()
        for trial in scene.trials:
            if scene.proofed and scene.view.with_file and trial.letter == scene.entry.trials.active:
                self._build_unproofed(scene)
            head = TrialHead(scene, trial)
            head.strike_asked.connect(lambda t=trial.letter: self.change_asked.emit("strike", t))
            head.activated.connect(lambda t=trial.letter: self.change_asked.emit("activate", t))
            pane = self._add_pane(trial.letter, head, f"Trial {scene.mark(trial)}, {scene.name(trial)}")
            pane.activated.connect(lambda t=trial.letter: self.change_asked.emit("activate", t))
            self.heads[trial.letter] = head

    def _build_unproofed(self, scene: Scene) -> None:
        head = frame("sheet")
        head.setFixedHeight(HEAD_PX)
        inside = row(label(scene.unproofed_text, "trial-name"), None)
        inside.setContentsMargins(8, 0, 8, 0)
        head.setLayout(inside)
        self._add_pane(UNPROOFED, head, f"Trial {scene.unproofed_text}")

    def _add_pane(self, key: str, head: QWidget, name: str) -> Pane:
        pane = Pane(self._viewport, self._lookup)
        pane.setAccessibleName(name)
        pane.tiles_changed.connect(self.tiles_changed)
        box = plain_widget("bench")
        column = QVBoxLayout(box)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(head)
        column.addWidget(pane, 1)
        across = -(-self._count() // self.rows) if self._count() > _MOST_IN_ROW else self._count()
        row, place = divmod(len(self.panes), across)
        self._grid.addWidget(box, row, place)
        self._grid.setColumnStretch(place, 1)
        self._grid.setRowStretch(row, 1)
        self.panes[key] = pane
        return pane
