"""The rows of the tray as a Qt item model: each picture and its results."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QAbstractListModel, QMimeData, QModelIndex, QPersistentModelIndex, Qt, QUrl

from wamplex.app.tray.change_kinds import ChangeKind
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.core.workflow.lineage.results import LineageResult

Index = QModelIndex | QPersistentModelIndex
ROW_ROLE = Qt.ItemDataRole.UserRole
_NO_INDEX = QModelIndex()


@dataclass(frozen=True, eq=False)
class TrayRow:
    """A picture, or with ``made`` a file that was made of it."""

    entry: TrayEntry
    result: LineageResult | None = None


class TrayList(QAbstractListModel):
    """A row for every entry of the tray, in its order, and one below it for each file made of it."""

    def __init__(self, tray: Tray) -> None:
        super().__init__()
        self._tray = tray
        self._rows = _rows(tray.entries)
        tray.added.connect(self._add)
        tray.reordered.connect(self._arrange)
        tray.changed.connect(self._entry_changed)

    def row(self, index: Index) -> TrayRow | None:
        """Content of a row; None where there is no such row."""
        return self._rows[index.row()] if index.isValid() and index.row() < len(self._rows) else None

    def entry(self, index: Index) -> TrayEntry | None:
        """The entry of a row; None for what was made of one."""
        row = self.row(index)
        return None if row is None or row.result is not None else row.entry

    def index_of(self, number: int) -> QModelIndex:
        """The row of an entry; invalid when it is not there."""
        for place, row in enumerate(self._rows):
            if row.entry.number == number:
                return self.index(place)
        return QModelIndex()

    def rowCount(self, parent: Index = _NO_INDEX) -> int:
        """How many rows there are."""
        return 0 if parent.isValid() else len(self._rows)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """Data for views and screen readers."""
        row = self.row(index)
        if row is None:
            return None
        path = row.entry.path if row.result is None else row.result.path
        if role == Qt.ItemDataRole.DisplayRole:
            return path.name
        if role == Qt.ItemDataRole.ToolTipRole:
            more = row.entry.info.notices if row.result is None else (f"made of {row.entry.path.name}",)
            return "\n".join((str(path), *more))
        if role == Qt.ItemDataRole.AccessibleTextRole:
            of = "" if row.result is None else f", made of {row.entry.path.name}"
            return f"{path.name}: {row_text(row)}{of}"
        return row if role == ROW_ROLE else None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Rows can be chosen and dragged; what is dragged falls between them."""
        if not index.isValid():
            return Qt.ItemFlag.ItemIsDropEnabled
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsDragEnabled

    def mimeData(self, indexes: Sequence[QModelIndex]) -> QMimeData:
        """The files, so that they can also be dropped onto other programs."""
        data = QMimeData()
        chosen = [row for row in map(self.row, indexes) if row is not None]
        paths = [row.entry.path if row.result is None else row.result.path for row in chosen]
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        return data

    def supportedDragActions(self) -> Qt.DropAction:
        """Other programs get copies."""
        return Qt.DropAction.CopyAction

    def _add(self, number: int) -> None:
        self.beginInsertRows(QModelIndex(), len(self._rows), len(self._rows))
        self._rows.append(TrayRow(self._tray.entry(number)))
        self.endInsertRows()

    def _arrange(self) -> None:
        self.beginResetModel()
        self._rows = _rows(self._tray.entries)
        self.endResetModel()

    def _entry_changed(self, number: int, changes: frozenset[ChangeKind]) -> None:
        if changes & {"file", "notices", "thumbnail"}:
            index = self.index_of(number)
            self.dataChanged.emit(index, index)
        if "made" in changes:
            self._list_results(self._tray.entry(number))

    def _list_results(self, entry: TrayEntry) -> None:
        """Put what was made of a picture below it, in place of what stood there."""
        first = self.index_of(entry.number).row() + 1
        if first == 0:
            return
        last = first
        while last < len(self._rows) and self._rows[last].entry is entry:
            last += 1
        if last > first:
            self.beginRemoveRows(QModelIndex(), first, last - 1)
            del self._rows[first:last]
            self.endRemoveRows()
        if entry.info.results:
            self.beginInsertRows(QModelIndex(), first, first + len(entry.info.results) - 1)
            self._rows[first:first] = [TrayRow(entry, result) for result in entry.info.results]
            self.endInsertRows()


def _rows(entries: list[TrayEntry]) -> list[TrayRow]:
    return [row for entry in entries for row in (TrayRow(entry), *(TrayRow(entry, m) for m in entry.info.results))]


def row_text(row: TrayRow) -> str:
    """Text below the name."""
    if row.result is None:
        return row_details(row.entry)
    return f"{row.result.width} × {row.result.height} px"


def row_details(entry: TrayEntry) -> str:
    """Text below the name: size and kind, or the reason why the file cannot be used."""
    if entry.error is not None:
        return entry.error
    if entry.header is None:
        return "reading…"
    text = f"{entry.header.width} × {entry.header.height} · {entry.header.kind}"
    return f"{text} · {entry.info.outdated}" if entry.info.outdated else text
