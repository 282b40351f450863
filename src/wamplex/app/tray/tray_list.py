"""The rows of the tray's list: what is shown of each picture, as a model that Qt's views understand."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QAbstractListModel, QMimeData, QModelIndex, QPersistentModelIndex, Qt, QUrl

from wamplex.app.tray.entry import Entry
from wamplex.app.tray.tray import Tray, What

Index = QModelIndex | QPersistentModelIndex
ENTRY_ROLE = Qt.ItemDataRole.UserRole
_NO_INDEX = QModelIndex()


class TrayList(QAbstractListModel):
    """A row for every entry of the tray, in its order."""

    def __init__(self, tray: Tray) -> None:
        super().__init__()
        self._tray = tray
        self._rows: list[Entry] = list(tray.entries)
        tray.added.connect(self._add)
        tray.arranged.connect(self._arrange)
        tray.changed.connect(self._entry_changed)

    def entry(self, index: Index) -> Entry | None:
        """The entry of a row, None where there is no such row."""
        return self._rows[index.row()] if index.isValid() and index.row() < len(self._rows) else None

    def index_of(self, number: int) -> QModelIndex:
        """The row of an entry; invalid when it is not there."""
        for row, entry in enumerate(self._rows):
            if entry.number == number:
                return self.index(row)
        return QModelIndex()

    def rowCount(self, parent: Index = _NO_INDEX) -> int:
        """How many rows there are."""
        return 0 if parent.isValid() else len(self._rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """What views and screen readers ask for."""
        entry = self.entry(index)
        if entry is None:
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return entry.path.name
        if role == Qt.ItemDataRole.ToolTipRole:
            return "\n".join((str(entry.path), *entry.facts.notices))
        if role == Qt.ItemDataRole.AccessibleTextRole:
            return f"{entry.path.name}: {about_words(entry)}"
        return entry if role == ENTRY_ROLE else None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Rows can be chosen and dragged; what is dragged falls between them."""
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        """The files, so that they can also be dropped onto other programs."""
        data = QMimeData()
        chosen = [entry for entry in map(self.entry, indexes) if entry is not None]
        data.setUrls([QUrl.fromLocalFile(str(entry.path)) for entry in chosen])
        return data

    def supportedDragActions(self) -> Qt.DropAction:
        """Other programs get copies."""
        return Qt.DropAction.CopyAction

    def _add(self, number: int) -> None:
        self.beginInsertRows(QModelIndex(), len(self._rows), len(self._rows))
        self._rows.append(self._tray.entry(number))
        self.endInsertRows()

    def _arrange(self) -> None:
        self.beginResetModel()
        self._rows = list(self._tray.entries)
        self.endResetModel()

    def _entry_changed(self, number: int, what: frozenset[What]) -> None:
        if what & {"file", "notices", "thumbnail"}:
            index = self.index_of(number)
            self.dataChanged.emit(index, index)


def about_words(entry: Entry) -> str:
    """What stands below the name: size and kind, or why the file cannot be used."""
    if entry.error is not None:
        return entry.error
    if entry.found is None:
        return "reading …"
    words = f"{entry.found.width} × {entry.found.height} · {entry.found.kind}"
    return f"{words} · {entry.facts.outdated}" if entry.facts.outdated else words
