"""The measured readings, and how the trials compare."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QObject, Signal

from wamplex.app.shared.render_requests import ReadingsKey
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.readings.catalogue import READINGS
from wamplex.core.readings.reading import Reading

# A trial is clearly worst when it stands so far from the next, as a share of the whole range.
_CLEARLY = 0.35


@dataclass(frozen=True)
class Standing:
    """One reading over all trials.

    Attributes
    ----------
    values : by letter
    best, worst : letters; None where the trials cannot be told apart, or where none is clearly worst
    """

    reading: Reading
    values: dict[str, float]
    best: str | None
    worst: str | None


class ReadingsModel(QObject):
    """The readings that the worker has sent."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self._known: dict[ReadingsKey, dict[str, float]] = {}

    def put(self, key: ReadingsKey, values: dict[str, float]) -> None:
        """Readings have come."""
        self._known[key] = values
        self.changed.emit()

    def missing(self, entry: TrayEntry) -> list[ReadingsKey]:
        """Readings that are still missing: at the spots, then over the picture."""
        keys = [*reading_keys(entry, over_picture=False).values(), *reading_keys(entry, over_picture=True).values()]
        return [key for key in keys if key not in self._known]

    def standings(self, entry: TrayEntry, *, over_picture: bool) -> list[Standing]:
        """Every reading, for the trials that have been measured."""
        values = {
            letter: self._known[key]
            for letter, key in reading_keys(entry, over_picture=over_picture).items()
            if key in self._known
        }
        return [_standing(r, {letter: values[r.key] for letter, values in values.items()}) for r in READINGS]


def reading_keys(entry: TrayEntry, *, over_picture: bool) -> dict[str, ReadingsKey]:
    """The request for each trial in the running, by its letter."""
    places = () if over_picture else tuple((spot.x, spot.y) for spot in entry.spots)
    if not over_picture and not places:
        return {}
    return {t.letter: ReadingsKey(entry.source, entry.trial_recipe(t), places) for t in entry.trials.remaining}


def _standing(reading: Reading, values: dict[str, float]) -> Standing:
    # Best first.
    order = sorted(values, key=lambda letter: values[letter], reverse=reading.better == "more")
    if len(order) < 2:
        return Standing(reading, values, None, None)
    span = abs(values[order[-1]] - values[order[0]])
    if span < reading.visible_from:
        return Standing(reading, values, None, None)
    gap = abs(values[order[-1]] - values[order[-2]])
    clear = len(order) == 2 or gap > _CLEARLY * span
    return Standing(reading, values, order[0], order[-1] if clear else None)
