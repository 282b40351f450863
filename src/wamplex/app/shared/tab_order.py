"""Keeps the tab order in the order of the layout, also for widgets that are added later."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLayout, QScrollArea, QWidget


class TabOrder:
    """Of one part of the window; Qt itself goes by when controls were made."""

    def __init__(self, root: QWidget) -> None:
        self._root = root
        self._last: list[QWidget] = []

    def follow(self) -> None:
        """Take up controls that have come, gone, or moved."""
        widgets = list(_widgets_in_layout(self._root))
        if widgets != self._last:
            self._last = widgets
            for before, after in pairwise(widgets):
                QWidget.setTabOrder(before, after)


def _widgets_in_layout(widget: QWidget) -> Iterator[QWidget]:
    """Controls that Tab stops at, in the order of the layouts that they lie in."""
    if widget.focusPolicy() & Qt.FocusPolicy.TabFocus:
        yield widget
    inside = widget.widget() if isinstance(widget, QScrollArea) else None
    if inside is not None:
        yield from _widgets_in_layout(inside)
    layout = widget.layout()
    if layout is not None:
        yield from _widgets_of_layout(layout)


def _widgets_of_layout(layout: QLayout) -> Iterator[QWidget]:
    for place in range(layout.count()):
        item = layout.itemAt(place)
        widget, inner = (None, None) if item is None else (item.widget(), item.layout())
        if widget is not None:
            yield from _widgets_in_layout(widget)
        elif inner is not None:
            yield from _widgets_of_layout(inner)
