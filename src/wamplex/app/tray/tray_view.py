"""The tray at the left: a card for every picture taken in."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QFrame, QLabel, QScrollArea, QVBoxLayout, QWidget

from wamplex.app import theme
from wamplex.app.shared.parts import button, label, pixmap_of, plain_widget, restyle
from wamplex.app.tray.entry import Entry
from wamplex.app.tray.tray import Tray, What

_THUMB = QSize(126, 76)


class TrayView(QWidget):
    """Cards of all entries; clicking one selects it."""

    add_asked = Signal()

    def __init__(self, tray: Tray) -> None:
        super().__init__()
        self.setProperty("role", "tray")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.setFixedWidth(theme.TRAY_WIDTH)
        self._tray = tray
        self.cards: list[TrayCard] = []
        self._heading = label("Tray", "heading")
        outside = QVBoxLayout(self)
        outside.setContentsMargins(10, 12, 6, 8)
        outside.setSpacing(theme.GAP)
        outside.addWidget(self._heading)
        scroll = self._scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.viewport().setAutoFillBackground(False)
        inner = plain_widget("clear")
        self._list = QVBoxLayout(inner)
        self._list.setContentsMargins(0, 0, 4, 0)
        self._list.setSpacing(theme.GAP)
        add = button("Add pictures…", "Take picture files into the tray (Ctrl+O)", self.add_asked.emit, "add")
        self._list.addWidget(add)
        self._list.addStretch(1)
        scroll.setWidget(inner)
        outside.addWidget(scroll)
        tray.added.connect(self._add)
        tray.changed.connect(self._entry_changed)
        tray.selected.connect(self._mark)

    def _add(self, number: int) -> None:
        card = TrayCard(self._tray.entries[number])
        card.clicked.connect(self._tray.select)
        self.cards.append(card)
        self._list.insertWidget(number, card)
        count = len(self.cards)
        self._heading.setText(f"Tray · {count} picture{'s' if count != 1 else ''}")

    def _mark(self, number: int) -> None:
        for card in self.cards:
            card.mark(card.number == number)
        self._scroll.ensureWidgetVisible(self.cards[number])

    def _entry_changed(self, number: int, what: frozenset[What]) -> None:
        if what & {"file", "notices", "thumbnail"}:
            self.cards[number].refresh()


class TrayCard(QFrame):
    """Thumbnail, name and kind of one picture, or the sentence about why it cannot be used."""

    clicked = Signal(int)

    def __init__(self, entry: Entry) -> None:
        super().__init__()
        self._entry = entry
        self.number = entry.number
        self._chosen = False
        self._shown: NDArray[np.uint8] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._thumb = QLabel()
        self._thumb.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._name = label(entry.path.name, "small-strong", wrap=True)
        self._about = label("reading …", "soft", wrap=True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(4, 5, 4, 5)
        inside.setSpacing(3)
        for part in (self._thumb, self._name, self._about):
            inside.addWidget(part)
        self._thumb.setVisible(False)
        self.refresh()

    @property
    def words(self) -> str:
        """What the card says below the name."""
        return self._about.text()

    def refresh(self) -> None:
        """Show the entry's present state."""
        entry = self._entry
        self._name.setText(_breakable(entry.path.name))
        if entry.error is not None:
            self._about.setText(entry.error)
            restyle(self._about, "alert")
        elif entry.found is not None:
            found = entry.found
            words = f"{found.width} × {found.height} · {found.kind}"
            self._about.setText(f"{words} · {entry.facts.outdated}" if entry.facts.outdated else words)
            restyle(self._about, "soft")
        if entry.thumbnail is not None and entry.thumbnail is not self._shown:
            self._shown = entry.thumbnail
            ratio = self.devicePixelRatioF()
            self._thumb.setPixmap(pixmap_of(entry.thumbnail, _THUMB.width(), _THUMB.height(), ratio))
            self._thumb.setVisible(True)
        self.setToolTip("\n".join((str(entry.path), *entry.facts.notices)))
        self.setAccessibleName(f"{entry.path.name}: {self._about.text()}")
        self.mark(self._chosen)

    def mark(self, chosen: bool) -> None:
        """Show whether it is the selected one."""
        self._chosen = chosen
        role = "warning" if self._entry.error is not None else "chosen" if chosen else "card"
        restyle(self, role)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select."""
        self._choose()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Select with Return or space."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._choose()
        else:
            super().keyPressEvent(event)

    def _choose(self) -> None:
        if self._entry.usable:
            self.clicked.emit(self.number)


def _breakable(name: str) -> str:
    """The name with places where a line may break."""
    return name.replace("-", "-\u200b").replace("_", "_\u200b").replace(".", "\u200b.")
