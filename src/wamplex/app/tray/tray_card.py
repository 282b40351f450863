"""Paints one picture of the tray: thumbnail, name, and what is said of it."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QRect, QSize, Qt
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPainter, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from wamplex.app import theme
from wamplex.app.shared.parts import pixmap_of
from wamplex.app.tray.entry import Entry
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.tray_list import ROW_ROLE, Index, Row, row_words

_THUMB = QSize(126, 76)
_MARGIN, _LINE_GAP, _BETWEEN, _INSET = 5, 3, 8, 14
_MOST_PIXMAPS = 60  # somewhat more than a high screen shows
_WRAP = int(Qt.TextFlag.TextWordWrap) | int(Qt.TextFlag.TextWrapAnywhere) | int(Qt.AlignmentFlag.AlignLeft)
_WORD_WRAP = int(Qt.TextFlag.TextWordWrap) | int(Qt.AlignmentFlag.AlignLeft)


@dataclass(frozen=True)
class _Places:
    """Where the parts of a card lie, from its own upper left corner."""

    thumb: QRect
    name: QRect
    about: QRect
    height: int


class TrayCardPainter(QStyledItemDelegate):
    """Cards as wide as the list; the selected picture has the accent's frame, chosen ones its tint."""

    def __init__(self, tray: Tray, view: QAbstractItemView) -> None:
        super().__init__(view)
        self._tray, self._view = tray, view
        self._places: dict[tuple[str, str, int, tuple[int, int] | None], _Places] = {}
        self._pixmaps: OrderedDict[int, tuple[NDArray[np.uint8], QPixmap]] = OrderedDict()

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """As high as name and words need."""
        row = index.data(ROW_ROLE)
        return QSize(self._width, self._laid_out(row).height + (_BETWEEN if row.made is None else 4))

    @property
    def _width(self) -> int:
        return self._view.viewport().width() - 4

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """One card."""
        row: Row = index.data(ROW_ROLE)
        places, entry = self._laid_out(row), row.entry
        inset = 0 if row.made is None else _INSET
        area = QRect(option.rect.topLeft(), QSize(self._width, places.height)).adjusted(inset, 0, 0, 0)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        self._paint_ground(painter, area, row, chosen=chosen)
        if entry.thumbnail is not None and row.made is None:
            shown = self._pixmap(entry, painter.device().devicePixelRatioF())
            size = shown.deviceIndependentSize().toSize()
            room = places.thumb.translated(area.topLeft())
            painter.drawPixmap(room.left() + (room.width() - size.width()) // 2, room.top(), shown)
        painter.setFont(theme.font(12, bold=row.made is None))
        painter.setPen(theme.colour(theme.INK))
        painter.drawText(places.name.translated(area.topLeft()), _WRAP, _breakable(_path(row).name))
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour(theme.AMBER_INK if entry.error is not None else theme.SOFT))
        painter.drawText(places.about.translated(area.topLeft()), _WORD_WRAP, row_words(row))
        painter.restore()

    def _paint_ground(self, painter: QPainter, area: QRect, row: Row, *, chosen: bool) -> None:
        entry = row.entry
        current = entry is self._tray.current and row.made is None
        ground, edge, width = theme.CARD, theme.RULE, 1
        if entry.error is not None and row.made is None:
            ground, edge = theme.AMBER_TINT, theme.AMBER
        if chosen and (row.made is not None or len(self._tray.chosen) > 1):
            ground = theme.MOSS_TINT
        if current or (chosen and entry.error is not None):
            edge, width = theme.MOSS, 2
        painter.fillRect(area, QColor(edge))
        painter.fillRect(area.adjusted(width, width, -width, -width), QColor(ground))

    def _laid_out(self, row: Row) -> _Places:
        thumb = row.entry.thumbnail if row.made is None else None
        shape = None if thumb is None else (thumb.shape[1], thumb.shape[0])
        width = self._width - (0 if row.made is None else _INSET)
        key = (_path(row).name, row_words(row), width, shape)
        if key not in self._places:
            self._places[key] = _laid_out(*key)
        return self._places[key]

    def _pixmap(self, entry: Entry, ratio: float) -> QPixmap:
        assert entry.thumbnail is not None
        pixels, shown = self._pixmaps.pop(entry.number, (None, None))
        if shown is None or pixels is not entry.thumbnail or shown.devicePixelRatio() != ratio:
            shown = pixmap_of(entry.thumbnail, _THUMB.width(), _THUMB.height(), ratio)
        self._pixmaps[entry.number] = (entry.thumbnail, shown)
        if len(self._pixmaps) > _MOST_PIXMAPS:
            self._pixmaps.popitem(last=False)
        return shown


def _path(row: Row) -> Path:
    return row.entry.path if row.made is None else row.made.path


def _laid_out(name: str, about: str, width: int, shape: tuple[int, int] | None) -> _Places:
    room = width - 2 * _MARGIN
    y = _MARGIN
    thumb = QRect(_MARGIN, y, room, 0)
    if shape is not None:
        scale = min(_THUMB.width() / shape[0], _THUMB.height() / shape[1])
        thumb.setHeight(round(shape[1] * scale))
        y += thumb.height() + _LINE_GAP
    named = _needed(theme.font(12, bold=True), room, _WRAP, _breakable(name)).translated(_MARGIN, y)
    y = named.bottom() + 1 + _LINE_GAP
    told = _needed(theme.font(12), room, _WORD_WRAP, about).translated(_MARGIN, y)
    return _Places(thumb, named, told, told.bottom() + 1 + _MARGIN)


def _needed(font: QFont, width: int, flags: int, text: str) -> QRect:
    found = QFontMetrics(font).boundingRect(QRect(0, 0, width, 10_000), flags, text)
    return QRect(0, 0, width, found.height())


def _breakable(name: str) -> str:
    """The name with places where a line may break."""
    return name.replace("-", "-\u200b").replace("_", "_\u200b").replace(".", "\u200b.")
