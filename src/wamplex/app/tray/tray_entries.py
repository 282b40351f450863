"""What the helpers of the tray need of it."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.model.source import Source


class TrayEntries(Protocol):
    """The entries of the tray, and telling what changed of one."""

    @property
    def current(self) -> TrayEntry | None:
        """The selected entry."""

    @property
    def usable(self) -> list[TrayEntry]:
        """Entries that can be enlarged."""

    def entry(self, number: int) -> TrayEntry:
        """The entry of a number."""

    def entry_of(self, path: Path) -> TrayEntry | None:
        """The entry of a file."""

    def entry_with(self, source: Source) -> TrayEntry | None:
        """The entry of a source, as long as its file has not changed."""

    def show_first(self, entry: TrayEntry) -> None:
        """Select a new entry if none before it in the tray is selected."""

    def announce(self, entry: TrayEntry, *changes: ChangeKind) -> None:
        """Tell what changed of an entry."""

    def announce_measured(self, entry: TrayEntry) -> None:
        """Tell that a row of an entry's condition sheet is ready."""
