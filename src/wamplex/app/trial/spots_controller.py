"""The spots of the Trial step: next, add, and find where trials differ."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from wamplex.app.bench.spot_walk import SpotWalk
from wamplex.app.bench.viewport import Viewport
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.trial.scene import compared_trials
from wamplex.app.workers.rendering.trial_differences import TrialDifferenceRequest
from wamplex.core.analysis.content.spots import Spot, transform_spots, unused_name
from wamplex.core.geometry.framing import Framing


class SpotsController(QObject):
    """Acts on the picture that is selected, where it can be used."""

    announced = Signal(str)
    differ_asked = Signal(object)  # DifferRequest

    def __init__(self, tray: Tray, viewport: Viewport, parent: QObject) -> None:
        super().__init__(parent)
        self._tray, self._viewport = tray, viewport
        self._walk = SpotWalk(viewport)

    def step(self, by: int) -> None:
        """Go to the next spot, or the one before."""
        entry = self._entry()
        if entry is not None:
            self.announced.emit(self._walk.step(entry.spots, by))

    def use(self, spots: tuple[Spot, ...]) -> None:
        """These instead of those there are."""
        entry = self._entry()
        if entry is not None:
            self._tray.set_spots(entry.number, spots)

    def add(self) -> None:
        """The place in the middle of the panes becomes a spot."""
        entry = self._entry()
        if entry is None:
            return
        name = unused_name(entry.spots)
        spot = Spot(self._viewport.centre_x, self._viewport.centre_y, "own", name)
        self._tray.set_spots(entry.number, (*entry.spots, spot))
        self.announced.emit(f"“{name}” was added to the sheet")

    def ask_where_they_differ(self) -> None:
        """Look for the places where trials differ most."""
        entry = self._entry()
        if entry is None:
            return
        recipes = tuple(entry.trial_recipe(trial) for trial in compared_trials(entry))
        if len(recipes) < 2:
            self.announced.emit("There is only one trial: nothing to compare")
            return
        self.differ_asked.emit(TrialDifferenceRequest(entry.number, entry.source, recipes))

    def take_differing(self, request: TrialDifferenceRequest, spots: tuple[Spot, ...]) -> None:
        """The places were found: they take the place of those found before."""
        entry = self._tray.entry(request.entry)
        if not entry.usable or entry.source != request.source or entry.header is None:
            return
        size = (entry.header.width, entry.header.height)
        fresh = transform_spots(spots, Framing(), entry.framing, *size)
        own_spots = tuple(spot for spot in entry.spots if spot.kind != "differ")
        self._tray.set_spots(entry.number, (*own_spots, *fresh))
        count = len(fresh)
        places = "1 place is" if count == 1 else f"{count} places are"
        self.announced.emit(f"{places} on the sheet now" if count else "The trials agree everywhere")

    def _entry(self) -> TrayEntry | None:
        entry = self._tray.current
        return entry if entry is not None and entry.usable else None
