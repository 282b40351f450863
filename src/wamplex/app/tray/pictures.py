"""All entries of the tray: in order, by number and by file."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.trials import Trials


class Pictures:
    """Entries keep their numbers for good; the order says which are there, and where.

    Those taken out are kept, so that taking them out can be taken back.

    Attributes
    ----------
    entries : those in the tray, in their order; not to be changed by others
    """

    def __init__(self) -> None:
        self._all: list[TrayEntry] = []
        self._by_path: dict[Path, TrayEntry] = {}
        self.entries: list[TrayEntry] = []

    @property
    def order(self) -> tuple[int, ...]:
        """Numbers of the entries that are there."""
        return tuple(entry.number for entry in self.entries)

    @property
    def ever(self) -> list[TrayEntry]:
        """All entries, those taken out among them."""
        return list(self._all)

    def add(self, path: Path, usual: Trials) -> TrayEntry:
        """A file at the end, with its first trials; one that was taken out comes back as it was."""
        entry = self._by_path.get(path)
        if entry is None:
            entry = TrayEntry(len(self._all), path, usual)
            self._all.append(entry)
            self._by_path[path] = entry
        self.entries.append(entry)
        return entry

    def arrange(self, order: Iterable[int]) -> None:
        """Have these entries, in this order."""
        self.entries = [self._all[number] for number in order]

    def entry(self, number: int) -> TrayEntry:
        """The entry of a number, in the tray or taken out."""
        return self._all[number]

    def at(self, path: Path) -> TrayEntry | None:
        """The entry of a file, None where none is there."""
        entry = self._by_path.get(path)
        return entry if entry is not None and entry in self.entries else None

    def known(self, path: Path) -> TrayEntry | None:
        """The entry of a file, in the tray or taken out."""
        return self._by_path.get(path)

    def move_file(self, entry: TrayEntry, path: Path) -> None:
        """The file of an entry lies elsewhere."""
        del self._by_path[entry.path]
        entry.path = path
        self._by_path[path] = entry


def reorder(order: tuple[int, ...], numbers: Iterable[int], before: int | None) -> tuple[int, ...]:
    """An order with some of its numbers together before another one; at the end for None."""
    moving = set(numbers)
    place = len(order) if before is None else order.index(before)
    head, tail = ([n for n in part if n not in moving] for part in (order[:place], order[place:]))
    return (*head, *(n for n in order if n in moving), *tail)
