"""The proof sheet: spots by trials, every cell at final size."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QInputDialog, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from wamplex.app.bench.pane import Pane, TileLookup
from wamplex.app.bench.viewport import Viewport
from wamplex.app.shared.render_requests import TileKey
from wamplex.app.shared.widgets import button, clear_grid, label, plain_widget, row
from wamplex.app.trial.readings_model import Standing
from wamplex.app.trial.scene import Scene
from wamplex.app.trial.trial_head import TrialHead
from wamplex.core.analysis.content.spots import Spot
from wamplex.core.colour.screen_view import PLAIN, ScreenView
from wamplex.core.model.source import Source

_NAME_WIDTH, _CELL_HEIGHT, _GAP = 92, 118, 4


class SheetView(QWidget):
    """A grid of cells; every row has its spot in the middle, all cells share the zoom."""

    change_asked = Signal(str, str)
    tiles_changed = Signal()
    spots_chosen = Signal(object)  # tuple of Spot
    opened = Signal(str, float, float)  # letter and place, to be looked at in the Linked view

    def __init__(self, lookup: TileLookup) -> None:
        super().__init__()
        self._view = PLAIN
        self.cells: dict[tuple[str, str], Pane] = {}  # by spot name and letter
        self.heads: dict[str, TrialHead] = {}
        self._lookup = lookup
        self._zoom = 1.0
        self._viewports: list[Viewport] = []
        self._shown: tuple[Source, list[tuple[str, str]], tuple[Spot, ...]] | None = None
        self._spots: tuple[Spot, ...] = ()
        self._grid_box = plain_widget("bench")
        self._grid = QGridLayout(self._grid_box)
        self._grid.setContentsMargins(0, 0, 0, 0)
        self._grid.setSpacing(_GAP)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # it follows what is reached in it
        scroll.setWidget(self._grid_box)
        scroll.setWidgetResizable(True)
        scroll.verticalScrollBar().valueChanged.connect(lambda _v: self.tiles_changed.emit())
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(scroll)
        self._scroll = scroll

    def set_zoom(self, zoom: float) -> None:
        """Zoom all cells."""
        self._zoom = zoom
        for viewport in self._viewports:
            viewport.set_zoom(zoom)

    def show_scene(self, scene: Scene) -> None:
        """Show a picture's spots and trials; the grid is made anew when either changed."""
        trials = [(t.letter, scene.name(t)) for t in scene.trials]
        shown = (scene.entry.source, trials, scene.entry.spots)
        if shown != self._shown:
            self._build(scene)
            self._shown = shown
        assert scene.entry.size is not None
        for (_, letter), cell in self.cells.items():
            cell.show_result(
                scene.entry.source, scene.recipe(letter), scene.entry.size, scene.placeholder, scene.overlay
            )
        for letter, head in self.heads.items():
            entry_trials = scene.entry.trials
            head.mark(letter == entry_trials.active, letter == entry_trials.stamped)
            head.allow_strike(entry_trials.can_strike)
            head.show_source(scene.source_pressed)

    def show_standings(self, standings: list[Standing]) -> None:
        """Readings have come."""
        for head in self.heads.values():
            head.show_standings(standings)

    def needed_tiles(self) -> Iterator[tuple[float, int, TileKey]]:
        """Tiles of the cells in view, from the middle of the sheet outwards."""
        visible = self._scroll.viewport().rect()
        centre = visible.center()
        for number, cell in enumerate(self.cells.values()):
            corner = cell.mapTo(self._scroll.viewport(), cell.rect().topLeft())
            place = cell.rect().translated(corner)
            if not place.intersects(visible):
                continue
            away = place.center() - centre
            for _, key in cell.needed_tiles():
                yield float(away.manhattanLength()), number, key

    def repaint_tile(self, key: TileKey) -> None:
        """A tile has come."""
        for cell in self.cells.values():
            cell.repaint_tile(key)

    @property
    def pane(self) -> Pane | None:
        """One cell, to say at what zoom it is."""
        return next(iter(self.cells.values()), None)

    def set_view(self, view: ScreenView) -> None:
        """Show colours on another screen, or as another print."""
        self._view = view
        for viewport in self._viewports:
            viewport.set_view(view)

    def forget(self) -> None:
        """Nothing is shown."""
        clear_grid(self._grid)
        self.cells, self.heads, self._viewports, self._shown = {}, {}, [], None

    def _build(self, scene: Scene) -> None:
        self.forget()
        self._spots = scene.entry.spots
        self._grid.setColumnMinimumWidth(0, _NAME_WIDTH)
        for column, trial in enumerate(scene.trials, start=1):
            head = TrialHead(scene, trial, with_bars=not scene.blind.hidden)
            head.strike_asked.connect(partial(self.change_asked.emit, "strike", trial.letter))
            head.activated.connect(partial(self.change_asked.emit, "activate", trial.letter))
            self._grid.addWidget(head, 0, column)
            self._grid.setColumnStretch(column, 1)
            self.heads[trial.letter] = head
        for number, spot in enumerate(self._spots, start=1):
            self._add_row(scene, number, spot)
        self._grid.setRowStretch(len(self._spots) + 1, 1)

    def _add_row(self, scene: Scene, number: int, spot: Spot) -> None:
        viewport = Viewport(self._view)
        viewport.centre_x, viewport.centre_y, viewport.zoom = spot.x, spot.y, self._zoom
        viewport.changed.connect(partial(self._viewport_changed, viewport))
        self._viewports.append(viewport)
        self._grid.addWidget(self._row_head(spot), number, 0)
        self._grid.setRowMinimumHeight(number, _CELL_HEIGHT)
        for column, trial in enumerate(scene.trials, start=1):
            cell = Pane(viewport, self._lookup, exact=True)
            cell.setAccessibleName(f"{spot.name}, trial {scene.mark(trial)}, {scene.name(trial)}")
            cell.setToolTip(f"{spot.name}. Drag to move the spot, double-click to look closer")
            cell.activated.connect(partial(self.change_asked.emit, "activate", trial.letter))
            cell.tiles_changed.connect(self.tiles_changed)
            cell.released.connect(self._keep_dragged_spots)
            cell.opened.connect(partial(self._open, trial.letter, viewport))
            self._grid.addWidget(cell, number, column)
            self.cells[spot.name, trial.letter] = cell

    def _row_head(self, spot: Spot) -> QWidget:
        widget = QWidget()
        inside = QVBoxLayout(widget)
        inside.setContentsMargins(8, 4, 2, 4)
        inside.setSpacing(2)
        inside.addWidget(label(spot.name, "spot-name", wrap=True))
        inside.addWidget(label("placed by hand" if spot.kind == "own" else "automatic", "spot-kind"))
        rename = button("rename", "Rename this spot", partial(self._rename, spot), "bench-link")
        remove = button("remove", "Remove this spot from the sheet", partial(self._remove, spot), "bench-link")
        for act in (rename, remove):
            act.setAccessibleName(f"{act.text().capitalize()} {spot.name}")
        inside.addLayout(row(rename, remove, None, spacing=8))
        inside.addStretch(1)
        return widget

    def _viewport_changed(self, viewport: Viewport) -> None:
        """Zooming one row zooms all."""
        if viewport.zoom != self._zoom and viewport.zoom is not None:
            self.set_zoom(viewport.zoom)
        self.tiles_changed.emit()

    def _keep_dragged_spots(self) -> None:
        """A row was dragged: its spot lies there from now on."""
        moved_rows = self.spots_after_scrolling()
        if moved_rows != self._spots:
            # The rows are there already; they need not be made anew.
            self._spots = moved_rows
            assert self._shown is not None
            self._shown = (*self._shown[:2], moved_rows)
            self.spots_chosen.emit(moved_rows)

    def spots_after_scrolling(self) -> tuple[Spot, ...]:
        """The spots where their rows have been dragged to."""
        spot_viewports = zip(self._spots, self._viewports, strict=True)
        return tuple(Spot(v.centre_x, v.centre_y, s.kind, s.name) for s, v in spot_viewports)

    def _open(self, letter: str, viewport: Viewport) -> None:
        self.opened.emit(letter, viewport.centre_x, viewport.centre_y)

    def _rename(self, spot: Spot) -> None:
        text, agreed = QInputDialog.getText(self, "Rename the spot", "Name", QLineEdit.EchoMode.Normal, spot.name)
        name = text.strip()
        if agreed and name and name not in [s.name for s in self._spots]:
            renamed = [
                Spot(s.x, s.y, s.kind, name if s.name == spot.name else s.name) for s in self.spots_after_scrolling()
            ]
            self.spots_chosen.emit(tuple(renamed))

    def _remove(self, spot: Spot) -> None:
        self.spots_chosen.emit(tuple(s for s in self.spots_after_scrolling() if s.name != spot.name))
