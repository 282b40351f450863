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
    made = QLabel(text)
    made.setProperty("role", role)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


def letter_square(letter: str, *, stamped: bool = False) -> QLabel:
    """The letter of a trial in its square."""
    made = label(letter, "mark-stamped" if stamped else "mark")
    made.setFixedSize(20, 20)
    made.setAlignment(Qt.AlignmentFlag.AlignCenter)
    return made


def button(text: str, tip: str, act: Callable[[], object], role: str = "") -> QPushButton:
    """A push button with a tooltip that says what it does."""
    made = QPushButton(text)
    made.setProperty("role", role)
    made.setToolTip(tip)
    made.setAccessibleName(text)
    made.clicked.connect(lambda: act())
    if role == "link":
        made.setCursor(Qt.CursorShape.PointingHandCursor)
        made.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
    return made


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
            made = button(text, tip, partial(chosen, value))
            made.setAccessibleName(f"{name}: {text}")
            made.setCheckable(True)
            self._group.addButton(made)
            self._buttons.append((value, made))
            grid.addWidget(made, place // columns, place % columns)

    def show_value(self, value: object) -> None:
        """Press the button of a value; none when no button has it."""
        self._group.setExclusive(False)
        for own, made in self._buttons:
            made.setChecked(own == value)
        self._group.setExclusive(True)

    def button_for(self, value: object) -> QPushButton:
        """The button of a value."""
        return next(made for own, made in self._buttons if own == value)


def frame(role: str) -> QFrame:
    """A frame in one of the theme's roles."""
    made = QFrame()
    made.setProperty("role", role)
    return made


def plain_widget(role: str) -> QWidget:
    """A widget that paints the background of its role."""
    made = QWidget()
    made.setProperty("role", role)
    made.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
    return made


def row(*parts: QWidget | int | None, spacing: int = theme.GAP) -> QHBoxLayout:
    """A horizontal layout; None is a stretch, a number is space in pixels."""
    made = QHBoxLayout()
    made.setContentsMargins(0, 0, 0, 0)
    made.setSpacing(spacing)
    _fill(made, parts)
    return made


def toolbar(*parts: QWidget | int | None) -> QWidget:
    """The bar above a bench; on a small screen it goes on in a further row."""
    made = plain_widget("bar")
    inside = WrappingRow(spacing=theme.GAP, height=theme.BAR_HEIGHT, margins=QMargins(10, 4, 10, 5))
    for part in parts:
        inside.add(part)
    made.setLayout(inside)
    policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
    policy.setHeightForWidth(True)
    made.setSizePolicy(policy)
    return made


def scrolling_panel(footer: QWidget | None = None) -> tuple[QWidget, QVBoxLayout]:
    """A panel whose content may be taller than the window, and the layout to fill.

    Parameters
    ----------
    footer : what stays in view below it
    """
    made = plain_widget("side")
    made.setFixedWidth(theme.PANEL_WIDTH)
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
    outside = QVBoxLayout(made)
    outside.setContentsMargins(0, 0, 0, 0)
    outside.setSpacing(0)
    outside.addWidget(scroll)
    if footer is not None:
        outside.addWidget(footer)
    return made, inside


def lay_out_step(step: QWidget, bar: QWidget, bench: QWidget, panel: QWidget) -> None:
    """A step of the window: the bar above the bench, the panel right of both."""
    left = QVBoxLayout()
    left.setContentsMargins(0, 0, 0, 0)
    left.setSpacing(0)
    left.addWidget(bar)
    left.addWidget(bench, 1)
    whole = QHBoxLayout(step)
    whole.setContentsMargins(0, 0, 0, 0)
    whole.setSpacing(0)
    whole.addLayout(left, 1)
    whole.addWidget(panel)


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


def allow_line_breaks(words: str) -> str:
    """Words with places where a line may break inside long names of files."""
    return words.replace("-", f"-{MAY_BREAK}").replace("_", f"_{MAY_BREAK}").replace(".", f"{MAY_BREAK}.")


def _fill(layout: QHBoxLayout, parts: tuple[QWidget | int | None, ...]) -> None:
    for part in parts:
        if part is None:
            layout.addStretch(1)
        elif isinstance(part, int):
            layout.addSpacing(part)
        else:
            layout.addWidget(part)
