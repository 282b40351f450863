"""Lists the guests stored on this computer, and removes them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QDialog, QListWidget, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import button, label, row
from wamplex.core.geometry.size_text import byte_size_text
from wamplex.core.guests.guest import Guest
from wamplex.core.guests.guest_store import guests_size_bytes, remove_guest, stored_guests


class GuestsDialog(QDialog):
    """A list of all guests, with the room that each takes on the disk.

    Parameters
    ----------
    in_use : gives the name of a picture whose trials have a guest, None where none has
    """

    changed = Signal()

    def __init__(self, in_use: Callable[[str], str | None], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Guests on this computer")
        self.resize(640, 380)
        self._in_use = in_use
        self._shown: tuple[Guest, ...] = ()
        self.list = QListWidget()
        self.list.setAccessibleName("Stored guests")
        self.list.setSelectionMode(QListWidget.SelectionMode.ExtendedSelection)
        self.list.itemSelectionChanged.connect(self._show_chosen)
        self.remove_button = button("Remove", "Delete the stored pixels of the selected guests", self.remove)
        self._text = label("", "small", wrap=True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(18, 14, 18, 14)
        inside.addWidget(label("Files enlarged elsewhere. Their pixels are stored for the trials", "heading"))
        inside.addWidget(self.list, 1)
        inside.addWidget(self._text)
        inside.addLayout(row(self.remove_button, None, button("Close", "Close this window", self.close, "main")))
        self._fill()

    @property
    def text(self) -> str:
        """How much room they take, or why one must stay."""
        return self._text.text()

    def remove(self) -> None:
        """Remove the selected guests, unless a picture in the tray uses one."""
        stay = []
        for guest in self._chosen:
            picture = self._in_use(guest.key)
            if picture is not None:
                stay.append(f"{guest.name} stays: {picture} has a trial with it.")
                continue
            try:
                remove_guest(guest.key)
            except OSError as error:
                stay.append(f"{guest.name} stays: {error.strerror}.")
        self._fill()
        if stay:
            self._text.setText(" ".join(stay))
        self.changed.emit()

    @property
    def _chosen(self) -> list[Guest]:
        return [self._shown[index.row()] for index in self.list.selectedIndexes()]

    def _fill(self) -> None:
        self._shown = stored_guests()
        self.list.clear()
        self.list.addItems([_guest_text(guest) for guest in self._shown])
        self._text.setText(
            f"{stored_guests_text()} A project whose guest was removed tells you. You can add the file again."
            if self._shown
            else "None. Add a file to the trials of a picture in Trial."
        )
        self._show_chosen()

    def _show_chosen(self) -> None:
        self.remove_button.setEnabled(bool(self.list.selectedIndexes()))


def stored_guests_text() -> str:
    """How many there are, and how much room they take."""
    guests = stored_guests()
    if not guests:
        return "None."
    count = "1 file" if len(guests) == 1 else f"{len(guests)} files"
    return f"{count}, {byte_size_text(sum(map(guests_size_bytes, guests)))}."


def _guest_text(guest: Guest) -> str:
    note = guest.note
    size = f"{note.width} × {note.height} px, {byte_size_text(guests_size_bytes(guest))}"
    return f"{note.file} — {size}, taken in on {note.added_on}"
