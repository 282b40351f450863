"""A row of widgets that wraps into further rows when space is short."""

from __future__ import annotations

from PySide6.QtCore import QMargins, QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QSpacerItem, QWidget

_LEAST_PX = 8


class WrappingRow(QLayout):
    """What comes after a stretch stands at the right of its row.

    Parameters
    ----------
    height : of each row
    """

    def __init__(self, *, spacing: int, height: int, margins: QMargins) -> None:
        super().__init__()
        self._items: list[QLayoutItem] = []
        self._stretches: set[int] = set()  # places before which there is one
        self._height = height
        # A window that is laid out asks for the same widths again and again.
        self._known: dict[int, list[list[tuple[int, QLayoutItem]]]] = {}
        self.setSpacing(spacing)
        self.setContentsMargins(margins)

    def addItem(self, item: QLayoutItem) -> None:
        """Add at the end."""
        self._items.append(item)
        self._known.clear()

    def add(self, part: QWidget | int | None) -> None:
        """A widget; None for a stretch, a number for space in pixels."""
        if part is None:
            self._stretches.add(len(self._items))
        elif isinstance(part, int):
            self.addItem(QSpacerItem(part, 1))
        else:
            self.addWidget(part)

    def count(self) -> int:
        """How many items there are."""
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:
        """Item at an index."""
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        """Take one out."""
        self._known.clear()
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def invalidate(self) -> None:
        """A widget has come, gone, or has another size."""
        self._known.clear()
        super().invalidate()

    def expandingDirections(self) -> Qt.Orientation:
        """It does not expand."""
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        """Narrower makes it higher."""
        return True

    def heightForWidth(self, width: int) -> int:
        """Height of the rows at a width."""
        return max(1, len(self._rows(width))) * self._height

    def minimumSize(self) -> QSize:
        """Its widest widget."""
        margins = self.contentsMargins()
        widest = max((item.sizeHint().width() for item in self._visible()), default=0)
        return QSize(widest + margins.left() + margins.right(), self._height)

    def sizeHint(self) -> QSize:
        """All in one row."""
        margins = self.contentsMargins()
        wide = sum(item.sizeHint().width() + self.spacing() for item in self._visible())
        return QSize(wide + margins.left() + margins.right(), self._height)

    def setGeometry(self, rectangle: QRect) -> None:
        """Put the widgets where they belong."""
        super().setGeometry(rectangle)
        margins = self.contentsMargins()
        for number, row in enumerate(self._rows(rectangle.width())):
            top = rectangle.top() + number * self._height + margins.top()
            height = self._height - margins.top() - margins.bottom()
            left, right = rectangle.left() + margins.left(), rectangle.right() + 1 - margins.right()
            used = sum(item.sizeHint().width() for _, item in row) + self.spacing() * (len(row) - 1)
            spare = max(0, right - left - used)
            for place, item in row:
                if place in self._stretches:
                    left, spare = left + spare, 0
                size = item.sizeHint()
                if size.height() < _LEAST_PX:  # a line between others
                    size.setHeight(height)
                y = top + max(0, (height - size.height()) // 2)
                item.setGeometry(QRect(QPoint(left, y), QSize(size.width(), min(size.height(), height))))
                left += size.width() + self.spacing()

    def _visible(self) -> list[QLayoutItem]:
        return [item for item in self._items if not item.isEmpty() or item.spacerItem() is not None]

    def _rows(self, width: int) -> list[list[tuple[int, QLayoutItem]]]:
        """The items of each row, with their places among all."""
        if width not in self._known:
            self._known[width] = self._broken_into_rows(width)
        return self._known[width]

    def _broken_into_rows(self, width: int) -> list[list[tuple[int, QLayoutItem]]]:
        margins = self.contentsMargins()
        row_width = width - margins.left() - margins.right()
        rows: list[list[tuple[int, QLayoutItem]]] = []
        used = 0
        for place, item in enumerate(self._items):
            if item.isEmpty() and item.spacerItem() is None:
                continue
            wide = item.sizeHint().width()
            if not rows or used + wide > row_width:
                rows.append([])
                used = 0
            rows[-1].append((place, item))
            used += wide + self.spacing()
        return rows
