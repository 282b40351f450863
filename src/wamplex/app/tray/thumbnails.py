"""The thumbnails of the tray: large for the pictures that are worked on, small for the others."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import replace

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray_entries import TrayEntries
from wamplex.core.base.array_types import Rgb8
from wamplex.core.geometry.framing import Framing
from wamplex.core.intake.compressed_thumbnail import Thumbnail, compress_thumbnail
from wamplex.core.intake.thumbnail_cache import SIDE_PX, shrink_thumbnail
from wamplex.core.model.development import Development
from wamplex.core.model.source import Source

_MOST_LARGE = 24


class LargeThumbnails:
    """Keeps as many large ones as a person goes back and forth between; they change with the tray."""

    def __init__(self, tray: TrayEntries) -> None:
        self._tray = tray
        self._large: OrderedDict[int, None] = OrderedDict()

    def is_small(self, entry: TrayEntry) -> bool:
        """Whether the bench wants a larger one than there is."""
        shown, header = entry.info.thumbnail, entry.header
        return shown is not None and header is not None and max(shown.shape) <= SIDE_PX < max(entry.pixels)

    def near(self, entry: TrayEntry) -> bool:
        """Whether an entry is among those that are worked on."""
        return entry.number in self._large or entry is self._tray.current

    def noted(self, entry: TrayEntry) -> None:
        """An entry has got a thumbnail; of too many large ones, that of the oldest becomes small."""
        if entry.info.thumbnail is None or max(entry.info.thumbnail.shape) <= SIDE_PX:
            return
        self._large[entry.number] = None
        self._large.move_to_end(entry.number)
        while len(self._large) > _MOST_LARGE:
            other = self._tray.entry(self._large.popitem(last=False)[0])
            if other is not self._tray.current:
                self._make_small(other)

    def removed(self, numbers: Iterable[int]) -> None:
        """Entries were taken out: they keep small thumbnails, in case they are put back."""
        for number in self._large.keys() & set(numbers):
            del self._large[number]
            self._make_small(self._tray.entry(number))

    def _make_small(self, entry: TrayEntry) -> None:
        if entry.thumbnail is not None:
            self._put(entry, compress_thumbnail(shrink_thumbnail(entry.thumbnail)))
            entry.info = replace(entry.info, evidence_crops={})

    def set_large(self, source: Source, pixels: Rgb8) -> None:
        """A large one was read of a file."""
        entry = self._tray.entry_with(source)
        if entry is not None and self.is_small(entry):
            entry.developed_as = None  # what a raw file holds is as the camera made it
            self._put(entry, pixels)
            self.noted(entry)
            self._tray.announce(entry, "thumbnail", "framing")

    def _put(self, entry: TrayEntry, shown: Thumbnail) -> None:
        entry.info = replace(entry.info, thumbnail=shown)
        entry.framed = None
        self.reframe(entry)

    def reframe(self, entry: TrayEntry) -> None:
        """Resampling runs off the GUI thread; until then the previous thumbnail is shown."""
        if entry.framing == Framing():
            entry.framed, entry.framed_as = entry.info.thumbnail, entry.framing
        elif entry.framed is None:
            entry.framed, entry.framed_as = entry.info.thumbnail, Framing()

    @property
    def to_be_framed(self) -> list[TrayEntry]:
        """Entries whose thumbnail is not yet as the framing leaves it."""
        usable = self._tray.usable
        # With a thousand pictures, to compare what is the very same takes longer than all else.
        return [e for e in usable if e.framed_as is not e.framing and e.framed_as != e.framing]

    def set_framed(self, number: int, source: Source, framing: Framing, shown: Thumbnail) -> None:
        """A thumbnail was made as a framing leaves it."""
        entry = self._tray.entry(number)
        if entry.header is not None and entry.source == source and entry.framing == framing:
            entry.framed, entry.framed_as = shown, framing
            self._tray.announce(entry, "thumbnail")

    @property
    def to_be_developed(self) -> list[TrayEntry]:
        """Raw files whose thumbnail is not yet as they are developed, the selected one first."""
        current = self._tray.current
        waiting = [e for e in self._tray.usable if e.raw and e.developed_as != e.decisions.development and self.near(e)]
        return sorted(waiting, key=lambda entry: entry is not current)

    def set_developed(self, source: Source, development: Development, pixels: Rgb8) -> None:
        """A thumbnail was made of a raw file as it is developed."""
        entry = self._tray.entry_with(source)
        if entry is None or entry.decisions.development != development:
            return
        self._put(entry, pixels)
        entry.developed_as = development
        self._tray.announce(entry, "thumbnail", "framing")
