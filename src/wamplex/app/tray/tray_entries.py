"""What the helpers of the tray need of it."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from wamplex.app.tray.change_kinds import What
from wamplex.app.tray.entry import Entry
from wamplex.core.model.source import Source


class TrayEntries(Protocol):
    """The entries of the tray, and telling what changed of one."""

    @property
    def current(self) -> Entry | None:
        """The selected entry."""

    @property
    def usable(self) -> list[Entry]:
        """Entries that can be enlarged."""

    def entry(self, number: int) -> Entry:
        """The entry of a number."""

    def entry_of(self, path: Path) -> Entry | None:
        """The entry of a file."""

    def entry_with(self, source: Source) -> Entry | None:
        """The entry of a source, as long as its file has not changed."""

    def show_first(self, entry: Entry) -> None:
        """Select a new entry if none before it in the tray is selected."""

    def announce(self, entry: Entry, *what: What) -> None:
        """Tell what changed of an entry."""

    def announce_measured(self, entry: Entry) -> None:
        """Tell that a row of an entry's condition sheet is ready."""
