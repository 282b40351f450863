"""The tray at the left: a card for every picture taken in."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QItemSelection, QItemSelectionModel, QPoint, Qt, QTimer, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QDragEnterEvent, QDragMoveEvent, QDropEvent, QKeyEvent
from PySide6.QtWidgets import QAbstractItemView, QListView, QMenu, QVBoxLayout, QWidget

from wamplex.app.shared import theme
from wamplex.app.shared.keys import is_key
from wamplex.app.shared.widgets import button, label
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.tray_card import TrayCardPainter
from wamplex.app.tray.tray_list import Index, TrayList, row_details

_PORTION, _COMING_MS = 50, 500
_CHOOSE = QItemSelectionModel.SelectionFlag.ClearAndSelect
_NO_CHOICE, _ALSO = QItemSelectionModel.SelectionFlag.NoUpdate, QItemSelectionModel.SelectionFlag.Select


class TrayView(QWidget):
    """The list of entries; the one that is clicked or reached by keys is selected."""

    add_asked = Signal()
    find_asked = Signal(int)  # number of an entry whose file is missing
    recipes_asked = Signal()
    result_chosen = Signal(int, object)  # number of an entry, Made
    source_asked = Signal(int)  # number of an entry that was made here
    join_asked = Signal(int)  # number of the reference, one of the chosen
    separate_asked = Signal(int)

    def __init__(self, tray: Tray) -> None:
        super().__init__()
        self.setProperty("role", "tray")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.setFixedWidth(theme.TRAY_WIDTH)
        self._tray = tray
        self._model = TrayList(tray)
        self.list = _List(tray, self._model)
        self._heading = label("Tray", "heading")
        outside = QVBoxLayout(self)
        outside.setContentsMargins(10, 12, 6, 8)
        outside.setSpacing(theme.GAP)
        outside.addWidget(self._heading)
        outside.addWidget(self.list, 1)
        add = button("Add pictures…", "Add picture files to the tray (Ctrl+O)", self.add_asked.emit, "add")
        outside.addWidget(add)
        self.list.customContextMenuRequested.connect(self._open_menu)
        self.list.find_asked.connect(self.find_asked)
        self.list.recipes_asked.connect(self.recipes_asked)
        self.list.result_chosen.connect(self.result_chosen)
        self.list.source_asked.connect(self.source_asked)
        self.list.join_asked.connect(self.join_asked)
        self.list.separate_asked.connect(self.separate_asked)
        for signal in (tray.added, tray.reordered):
            signal.connect(lambda *_: self._count())

    def text_for(self, number: int) -> str:
        """Text of a card below the name."""
        return row_details(self._tray.entry(number))

    def _open_menu(self, place: QPoint) -> None:
        self.list.menu_at(place).popup(self.list.viewport().mapToGlobal(place))

    def _count(self) -> None:
        count = len(self._tray.entries)
        self._heading.setText(f"Tray · {count} picture{'s' if count != 1 else ''}" if count else "Tray")


class _List(QListView):
    """Cards that can be chosen with Shift and Ctrl, dragged to another place, and taken out."""

    find_asked = Signal(int)
    recipes_asked = Signal()
    result_chosen = Signal(int, object)
    source_asked = Signal(int)
    join_asked = Signal(int)
    separate_asked = Signal(int)

    def __init__(self, tray: Tray, model: TrayList) -> None:
        super().__init__()
        self.setObjectName("tray-list")
        self._tray, self._rows = tray, model
        self._showing = False
        self.setModel(model)
        self._cards = TrayCardPainter(tray, model, self)
        self.setItemDelegate(self._cards)
        self.setAccessibleName("Pictures in the tray")
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setResizeMode(QListView.ResizeMode.Adjust)
        self.setBatchSize(_PORTION)
        self._all_come = QTimer(self)
        self._all_come.setSingleShot(True)
        self._all_come.setInterval(_COMING_MS)
        self._all_come.timeout.connect(lambda: self.setLayoutMode(QListView.LayoutMode.SinglePass))
        self.setDragEnabled(True)
        self.setAcceptDrops(True)
        self.setDropIndicatorShown(True)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        tray.selected.connect(self._show_current)
        tray.reordered.connect(self._show_chosen)

    def rowsInserted(self, parent: Index, first: int, last: int) -> None:
        """Many that come are laid out in portions: a thousand at once take 0.1 s, twice.

        Only where the first is seen: what lies further down would be lost from view meanwhile.
        """
        if self.verticalScrollBar().value() == 0:
            self.setLayoutMode(QListView.LayoutMode.Batched)
            self._all_come.start()
        super().rowsInserted(parent, first, last)

    def dataChanged(self, first: Index, last: Index, roles: Sequence[int] = ()) -> None:
        """Rows that keep their height are only painted anew; laying out a thousand takes its time."""
        rows = [self._rows.row(self._rows.index(n)) for n in range(first.row(), last.row() + 1)]
        same_heights = [row is not None and self._cards.keeps_height(row) for row in rows]
        if all(same_heights):
            self.viewport().update()
        else:
            super().dataChanged(first, last, list(roles))

    def currentChanged(self, current: Index, previous: Index) -> None:
        """The row that was clicked or reached is the selected picture, if it can be used."""
        super().currentChanged(current, previous)
        row = self._rows.row(current)
        if row is None or not row.entry.usable or self._showing:
            return
        if row.result is not None:
            self.result_chosen.emit(row.entry.number, row.result)
        else:
            self._tray.select(row.entry.number)

    def selectionChanged(self, selected: QItemSelection, deselected: QItemSelection) -> None:
        """Tell the tray which pictures are chosen."""
        super().selectionChanged(selected, deselected)
        if not self._showing:
            self._tray.choose(self._chosen())
        self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Delete takes the chosen pictures out of the tray."""
        if is_key(event, "remove"):
            self._tray.remove(self._chosen())
        else:
            super().keyPressEvent(event)

    def menu_at(self, place: QPoint) -> QMenu:
        """Context menu of the chosen pictures."""
        menu = QMenu(self)
        entry = self._rows.entry(self.indexAt(place))
        chosen = self._chosen()
        if entry is not None:
            menu.addAction("Copy decisions…", self.recipes_asked.emit)
            if len(chosen) > 1 and entry.number in chosen:
                text = f"Join {len(chosen)} frames of one scene"
                menu.addAction(text, lambda: self.join_asked.emit(entry.number))
            if entry.decisions.frames is not None:
                menu.addAction("Separate its frames", lambda: self.separate_asked.emit(entry.number))
            folder = QUrl.fromLocalFile(str(entry.path.parent))
            menu.addAction("Show in folder", lambda: QDesktopServices.openUrl(folder))
            if entry.condition is not None and entry.condition.own_origin is not None:
                menu.addAction("Add its source", lambda: self.source_asked.emit(entry.number))
            if entry.error is not None:
                menu.addAction("Find the file…", lambda: self.find_asked.emit(entry.number))
            text = "Remove from the tray" if len(chosen) < 2 else f"Remove {len(chosen)} from the tray"
            menu.addAction(text, lambda: self._tray.remove(chosen or [entry.number]))
            menu.addSeparator()
        menu.addAction("Choose all", self.selectAll)
        return menu

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Cards may fall between others; files from elsewhere are the window's."""
        event.acceptProposedAction() if event.source() is self else event.ignore()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        """Cards may fall between others."""
        super().dragMoveEvent(event)
        event.acceptProposedAction() if event.source() is self else event.ignore()

    def dropEvent(self, event: QDropEvent) -> None:
        """Move what was dragged to where it fell."""
        self._tray.move(self._chosen(), self.number_at(event.position().toPoint()))
        event.acceptProposedAction()

    def number_at(self, place: QPoint) -> int | None:
        """The entry before which something falls that is let go at a place; None for the end."""
        index = self.indexAt(place)
        if index.isValid() and place.y() > self.visualRect(index).center().y():
            index = self._rows.index(index.row() + 1)
        entry = self._rows.entry(index)
        return None if entry is None else entry.number

    def _chosen(self) -> list[int]:
        entries = (self._rows.entry(index) for index in self.selectionModel().selectedRows())
        return [entry.number for entry in entries if entry is not None]

    def _show_current(self, number: int) -> None:
        """The selected picture is the current row; one chosen by other ways is chosen alone."""
        index = self._rows.index_of(number)
        row = self._rows.row(self.currentIndex())
        if row is not None and row.result is not None and row.entry.number == number:
            return  # what was made of it is looked at
        if not self._showing and self.currentIndex() != index:
            self._showing = True
            self.selectionModel().setCurrentIndex(index, _CHOOSE)
            self._showing = False
            self._tray.choose(self._chosen())
        self.scrollTo(index)
        self.viewport().update()

    def _show_chosen(self) -> None:
        """Rows were laid anew: those that were chosen are chosen again."""
        self._showing = True
        chosen = self._tray.chosen
        for entry in chosen:
            self.selectionModel().select(self._rows.index_of(entry.number), _ALSO)
        if self._tray.current is not None:
            self.selectionModel().setCurrentIndex(self._rows.index_of(self._tray.current.number), _NO_CHOICE)
        self._showing = False
