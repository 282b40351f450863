"""Small building blocks that the views share."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QMargins, Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.shared import theme
from wamplex.app.shared.wrapping_row import WrappingRow

MAY_BREAK = "\u200b"  # no space, but a line may end here


def label(text: str = "", role: str = "", *, wrap: bool = False) -> QLabel:
    """Text in one of the theme's roles."""
    widget = QLabel(text)
    widget.setProperty("role", role)
    widget.setWordWrap(wrap)
    widget.setTextFormat(Qt.TextFormat.PlainText)
    return widget


def letter_square(letter: str, *, stamped: bool = False) -> QLabel:
    """The letter of a trial in its square."""
    square = label(letter, "mark-stamped" if stamped else "mark")
    square.setFixedSize(20, 20)
    square.setAlignment(Qt.AlignmentFlag.AlignCenter)
    return square


def button(text: str, tip: str, act: Callable[[], object], role: str = "") -> QPushButton:
    """A push button with a tooltip that says what it does."""
    widget = QPushButton(text)
    widget.setProperty("role", role)
    widget.setToolTip(tip)
    widget.setAccessibleName(text)
    widget.clicked.connect(lambda: act())
    if role == "link":
        widget.setCursor(Qt.CursorShape.PointingHandCursor)
        widget.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
    return widget


def set_tooltip(control: QWidget, name: str, tip: str) -> None:
    """Give a control without words of its own a name for screen readers and a tooltip."""
    control.setAccessibleName(name)
    control.setToolTip(tip)


class ChoiceRow(QWidget):
    """A row of buttons of which one is down.

    Parameters
    ----------
    options : (value, text, tooltip) of each
    chosen : called with the value when the user picks one
    columns : of buttons, before the next row begins
    """

    def __init__(
        self,
        name: str,
        options: list[tuple[object, str, str]],
        chosen: Callable[[object], None],
        *,
        columns: int = 9,
    ) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self._group = QButtonGroup(self)
        self._buttons: list[tuple[object, QPushButton]] = []
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(4)
        for place, (value, text, tip) in enumerate(options):
            value_button = button(text, tip, partial(chosen, value))
            value_button.setAccessibleName(f"{name}: {text}")
            value_button.setCheckable(True)
            self._group.addButton(value_button)
            self._buttons.append((value, value_button))
            grid.addWidget(value_button, place // columns, place % columns)

    def show_value(self, value: object) -> None:
        """Press the button of a value; none when no button has it."""
        self._group.setExclusive(False)
        for own, value_button in self._buttons:
            value_button.setChecked(own == value)
        self._group.setExclusive(True)

    def button_for(self, value: object) -> QPushButton:
        """The button of a value."""
        return next(value_button for own, value_button in self._buttons if own == value)


def frame(role: str) -> QFrame:
    """A frame in one of the theme's roles."""
    widget = QFrame()
    widget.setProperty("role", role)
    return widget


def plain_widget(role: str) -> QWidget:
    """A widget that paints the background of its role."""
    widget = QWidget()
    widget.setProperty("role", role)
    widget.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
    return widget


def row(*parts: QWidget | int | None, spacing: int = theme.GAP) -> QHBoxLayout:
    """A horizontal layout; None is a stretch, a number is space in pixels."""
    layout = QHBoxLayout()
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    _fill(layout, parts)
    return layout


def toolbar(*parts: QWidget | int | None) -> QWidget:
    """The bar above a bench; on a small screen it goes on in a further row."""
    bar = plain_widget("bar")
    inside = WrappingRow(spacing=theme.GAP, height=theme.BAR_HEIGHT, margins=QMargins(10, 4, 10, 5))
    for part in parts:
        inside.add(part)
    bar.setLayout(inside)
    policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    policy.setHeightForWidth(True)
    bar.setSizePolicy(policy)
    return bar


def scrolling_panel(footer: QWidget | None = None) -> tuple[QWidget, QVBoxLayout]:
    """A panel whose content may be taller than the window, and the layout to fill.

    Parameters
    ----------
    footer : what stays in view below it
    """
    panel = plain_widget("side")
    panel.setFixedWidth(theme.PANEL_WIDTH)
    content = plain_widget("clear")
    inside = QVBoxLayout(content)
    # The scroll bar takes its room from the margin.
    inside.setContentsMargins(theme.SPACE, 12, theme.SPACE - 8, theme.SPACE)
    inside.setSpacing(theme.GAP)
    scroll = QScrollArea()
    scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # it follows what is reached in it
    scroll.setWidget(content)
    scroll.setWidgetResizable(True)
    scroll.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
    scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    outside = QVBoxLayout(panel)
    outside.setContentsMargins(0, 0, 0, 0)
    outside.setSpacing(0)
    outside.addWidget(scroll)
    if footer is not None:
        outside.addWidget(footer)
    return panel, inside


def lay_out_step(step: QWidget, bar: QWidget, bench: QWidget, panel: QWidget) -> None:
    """A step of the window: the bar above the bench, the panel right of both."""
    left = QVBoxLayout()
    left.setContentsMargins(0, 0, 0, 0)
    left.setSpacing(0)
    left.addWidget(bar)
    left.addWidget(bench, 1)
    layout = QHBoxLayout(step)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(0)
    layout.addLayout(left, 1)
    layout.addWidget(panel)


def restyle(widget: QWidget, role: str) -> None:
    """Give a widget another role and repaint it."""
    if widget.property("role") != role:
        widget.setProperty("role", role)
        if widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):  # else it will be when it is shown
            widget.style().unpolish(widget)
            widget.style().polish(widget)


def clear(layout: QVBoxLayout | QHBoxLayout) -> None:
    """Remove all widgets of a layout."""
    while layout.count():
        item = layout.takeAt(0)
        widget, inner = (item.widget(), item.layout()) if item is not None else (None, None)
        if widget is not None:
            # Hidden at once, since deletion waits for the event loop and it would stay on view till then.
            widget.hide()
            widget.deleteLater()
        elif isinstance(inner, QVBoxLayout | QHBoxLayout):
            clear(inner)


def clear_grid(layout: QGridLayout) -> None:
    """Remove all widgets of a grid, and what its rows and columns were given."""
    for index in reversed(range(layout.count())):
        item = layout.takeAt(index)
        widget = item.widget() if item is not None else None
        if widget is not None:
            widget.hide()
            widget.deleteLater()
    for row_ in range(layout.rowCount()):
        layout.setRowMinimumHeight(row_, 0)
        layout.setRowStretch(row_, 0)
    for column in range(layout.columnCount()):
        layout.setColumnStretch(column, 0)


def allow_line_breaks(text: str) -> str:
    """Words with places where a line may break inside long names of files."""
    return text.replace("-", f"-{MAY_BREAK}").replace("_", f"_{MAY_BREAK}").replace(".", f"{MAY_BREAK}.")


def _fill(layout: QHBoxLayout, parts: tuple[QWidget | int | None, ...]) -> None:
    for part in parts:
        if part is None:
            layout.addStretch(1)
        elif isinstance(part, int):
            layout.addSpacing(part)
        else:
            layout.addWidget(part)
