"""Paints one picture of the tray: thumbnail, name and details."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from functools import cache, lru_cache
from pathlib import Path
from weakref import WeakKeyDictionary, ref

from PySide6.QtCore import QBuffer, QByteArray, QRect, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QFontMetrics, QImageReader, QPainter, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QStyle, QStyledItemDelegate, QStyleOptionViewItem

from wamplex.app.shared import theme
from wamplex.app.shared.images import to_pixmap
from wamplex.app.shared.widgets import MAY_BREAK, allow_line_breaks
from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.tray_list import ROW_ROLE, Index, TrayList, TrayRow, row_text
from wamplex.core.intake.compressed_thumbnail import CompressedThumbnail, Thumbnail

_THUMB = QSize(126, 76)
_MARGIN, _LINE_GAP, _BETWEEN, _INSET = 5, 3, 8, 14
_AS_LONG_AS = "0000 × 0000 · JPEG"  # what will most likely be said of a picture
_MOST_PIXMAPS = 60  # somewhat more than a high screen shows
# Thumbnails unpacked in one turn of the window, at 3 ms each; the next ones follow in the next turn.
_AT_ONCE, _NEXT_MS = 2, 5
_WRAP = int(Qt.TextFlag.TextWordWrap) | int(Qt.TextFlag.TextWrapAnywhere) | int(Qt.AlignmentFlag.AlignLeft)
_WORD_WRAP = int(Qt.TextFlag.TextWordWrap) | int(Qt.AlignmentFlag.AlignLeft)


@dataclass(frozen=True)
class _Places:
    """Positions of the parts of a card, from its top left corner."""

    thumb: QRect
    name: QRect
    name_wraps: int
    about: QRect
    height: int


class TrayCardPainter(QStyledItemDelegate):
    """Cards as wide as the list; the selected picture has the accent's frame, chosen ones its tint."""

    def __init__(self, tray: Tray, rows: TrayList, view: QAbstractItemView) -> None:
        super().__init__(view)
        self._tray, self._rows, self._view = tray, rows, view
        self._places: dict[tuple[str, str, int, bool], _Places] = {}
        self._heights: WeakKeyDictionary[TrayRow, int] = WeakKeyDictionary()  # as they were laid out last
        self._heights_at = 0  # for this width
        # Which thumbnail each was made of; that of a picture that was taken out must not live on here.
        self._pixmaps: OrderedDict[int, tuple[ref[Thumbnail], QPixmap]] = OrderedDict()
        self._unpacked = 0  # in this turn
        self._next = QTimer(view)
        self._next.setSingleShot(True)
        self._next.setInterval(_NEXT_MS)
        self._next.timeout.connect(self._go_on)

    def sizeHint(self, option: QStyleOptionViewItem, index: Index) -> QSize:
        """As high as name and words need; asked for all rows whenever one comes or goes."""
        width = self._width
        if width != self._heights_at:
            self._heights.clear()
            self._heights_at = width
        row = self._rows.row(index)
        assert row is not None
        height = self._heights.get(row)
        if height is None:
            height = self._heights[row] = self._height(row)
        return QSize(width, height)

    def keeps_height(self, row: TrayRow) -> bool:
        """Whether what has changed in a row leaves it as high as it is."""
        before, now = self._heights.get(row), self._height(row)
        self._heights[row] = now
        return before == now

    def _height(self, row: TrayRow) -> int:
        return self._lay_out_card(row).height + (_BETWEEN if row.result is None else 4)

    @property
    def _width(self) -> int:
        return self._view.viewport().width() - 4

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """One card."""
        row: TrayRow = index.data(ROW_ROLE)
        places, entry = self._lay_out_card(row), row.entry
        inset = 0 if row.result is None else _INSET
        area = QRect(option.rect.topLeft(), QSize(self._width, places.height)).adjusted(inset, 0, 0, 0)
        chosen = bool(option.state & QStyle.StateFlag.State_Selected)
        painter.save()
        self._paint_ground(painter, area, row, chosen=chosen)
        if entry.info.thumbnail is not None and row.result is None:
            shown = self._pixmap(entry, painter.device().devicePixelRatioF())
            size = shown.deviceIndependentSize().toSize()
            thumb_rect = places.thumb.translated(area.topLeft())
            off = thumb_rect.size() - size
            painter.drawPixmap(thumb_rect.left() + off.width() // 2, thumb_rect.top() + off.height() // 2, shown)
        painter.setFont(theme.font(12, bold=row.result is None))
        painter.setPen(theme.colour(theme.INK))
        name = allow_line_breaks(_path(row).name)
        painter.drawText(places.name.translated(area.topLeft()), places.name_wraps, name)
        painter.setFont(theme.font(12))
        painter.setPen(theme.colour(theme.AMBER_INK if entry.error is not None else theme.SOFT))
        painter.drawText(places.about.translated(area.topLeft()), _WORD_WRAP, row_text(row))
        painter.restore()

    def _paint_ground(self, painter: QPainter, area: QRect, row: TrayRow, *, chosen: bool) -> None:
        entry = row.entry
        current = entry is self._tray.current and row.result is None
        ground, edge, width = theme.CARD, theme.RULE, 1
        if entry.error is not None and row.result is None:
            ground, edge = theme.AMBER_TINT, theme.AMBER
        if chosen and (row.result is not None or len(self._tray.chosen) > 1):
            ground = theme.MOSS_TINT
        if current or (chosen and entry.error is not None):
            edge, width = theme.MOSS, 2
        painter.fillRect(area, QColor(edge))
        painter.fillRect(area.adjusted(width, width, -width, -width), QColor(ground))

    def _lay_out_card(self, row: TrayRow) -> _Places:
        # Room for what is being read is kept free, so that a thousand that come do not move each other.
        pictured = row.result is None and row.entry.error is None
        width = self._width - (0 if row.result is None else _INSET)
        text = _AS_LONG_AS if pictured and row.entry.header is None else row_text(row)
        key = (_path(row).name, text, width, pictured)
        if key not in self._places:
            self._places[key] = _lay_out(*key)
        return self._places[key]

    def _pixmap(self, entry: TrayEntry, ratio: float) -> QPixmap:
        """A card's picture; empty, or the one before, when its turn has not come."""
        thumbnail = entry.info.thumbnail
        assert thumbnail is not None
        made_of, shown = self._pixmaps.get(entry.number, (None, QPixmap()))
        if made_of is None or made_of() is not thumbnail or shown.devicePixelRatio() != ratio:
            self._next.start()
            if self._unpacked >= _AT_ONCE:
                return shown
            self._unpacked += 1
            shown = _pixmap_of(thumbnail, ratio)
            self._pixmaps[entry.number] = (ref(thumbnail), shown)
        self._pixmaps.move_to_end(entry.number)
        if len(self._pixmaps) > _MOST_PIXMAPS:
            self._pixmaps.popitem(last=False)
        return shown

    def _go_on(self) -> None:
        if self._unpacked >= _AT_ONCE:
            self._view.viewport().update()
        self._unpacked = 0


def _pixmap_of(thumbnail: Thumbnail, ratio: float) -> QPixmap:
    """As large as a card needs; a packed one is not unpacked at a larger size first."""
    if not isinstance(thumbnail, CompressedThumbnail):
        return to_pixmap(thumbnail, _THUMB.width(), _THUMB.height(), ratio)
    data = QBuffer()
    data.setData(thumbnail.data)
    image_reader = QImageReader(data, QByteArray(b"jpeg"))
    full_size = QSize(thumbnail.shape[1], thumbnail.shape[0])
    image_reader.setScaledSize(full_size.scaled(_THUMB * ratio, Qt.AspectRatioMode.KeepAspectRatio))
    shown = QPixmap.fromImage(image_reader.read())
    shown.setDevicePixelRatio(ratio)
    return shown


def _path(row: TrayRow) -> Path:
    return row.entry.path if row.result is None else row.result.path


def _lay_out(name: str, about: str, width: int, pictured: bool) -> _Places:
    text_width = width - 2 * _MARGIN
    y = _MARGIN
    thumb = QRect(_MARGIN, y, text_width, _THUMB.height() if pictured else 0)
    if pictured:
        y += thumb.height() + _LINE_GAP
    shown = allow_line_breaks(name)
    wraps = _wraps(shown, text_width)
    named = _needed(text_width, wraps, shown, bold=True).translated(_MARGIN, y)
    y = named.bottom() + 1 + _LINE_GAP
    about_rect = _needed(text_width, _WORD_WRAP, about, bold=False).translated(_MARGIN, y)
    return _Places(thumb, named, wraps, about_rect, about_rect.bottom() + 1 + _MARGIN)


def _wraps(name: str, text_width: int) -> int:
    """Between the parts of a name, or anywhere where one of them needs more than a line."""
    metrics, _ = _metrics(bold=True)
    longest = max(name.split(MAY_BREAK), key=len)
    return _WRAP if metrics.horizontalAdvance(longest) > text_width else _WORD_WRAP


@lru_cache(maxsize=4096)
def _needed(width: int, flags: int, text: str, *, bold: bool) -> QRect:
    metrics, line = _metrics(bold)
    if "\n" not in text and metrics.horizontalAdvance(text) <= width:
        return QRect(0, 0, width, line)  # most; wrapping a thousand takes time that is seen
    bounds = metrics.boundingRect(QRect(0, 0, width, 10_000), flags, text)
    return QRect(0, 0, width, bounds.height())


@cache
def _metrics(bold: bool) -> tuple[QFontMetrics, int]:
    """Metrics of a font and its line height."""
    metrics = QFontMetrics(theme.font(12, bold=bold))
    return metrics, metrics.boundingRect(QRect(0, 0, 10_000, 10_000), _WORD_WRAP, "A line").height()
