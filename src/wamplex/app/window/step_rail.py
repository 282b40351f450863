"""The top of the window: the name, the steps, the place of the pictures."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QWidget

from wamplex.app.shared import theme
from wamplex.app.shared.widgets import label

STEPS = (
    ("Assess", "Measure the condition of the picture and suggest settings"),
    ("Size", "Choose crop and print size"),
    ("Trial", "Compare upscalers side by side and choose one"),
    ("Finish", "Blend layers, treat faces, sharpen for print, add grain"),
    ("Deliver", "Write the print files"),
)


PROJECT_ACTIONS = (
    ("open-project", "Open a project…\tCtrl+Shift+O"),
    ("save", "Save the project\tCtrl+S"),
    ("save-elsewhere", "Save as…\tCtrl+Shift+S"),
    ("undo", "Undo\tCtrl+Z"),
    ("redo", "Redo\tCtrl+Shift+Z"),
    ("colours", "Colour management…"),
    ("networks", "Your own networks…"),
    ("preferences", "Preferences…\tCtrl+,"),
    ("help", "Help\tF1"),
    ("what", "What is this?\tShift+F1"),
    ("about", "About Wamplex"),
)


class StepRail(QWidget):
    """Clicking a step, or its number key, opens it."""

    chosen = Signal(int)
    asked = Signal(str)  # what is to be done with the project

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "top")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground, True)
        self.setFixedHeight(theme.TOP_HEIGHT)
        name = label("Wamplex", "name")
        self._place = label("", "")
        self._place.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        name.setMinimumWidth(180)
        self._place.setMinimumWidth(180)
        inside = QHBoxLayout(self)
        inside.setContentsMargins(theme.SPACE, 0, theme.SPACE, 0)
        inside.setSpacing(4)
        inside.addWidget(name)
        inside.addStretch(1)
        self.step = 0
        self.buttons: list[QPushButton] = []
        for i, (step, tip) in enumerate(STEPS):
            step_button = QPushButton(f" {step}")
            step_button.setProperty("role", "step")
            step_button.setCheckable(True)
            step_button.setFixedHeight(theme.TOP_HEIGHT - 1)
            step_button.setToolTip(f"{tip} (key {i + 1})")
            step_button.setAccessibleName(f"Step {i + 1}: {step}")
            step_button.setIconSize(QSize(18, 18))
            step_button.clicked.connect(lambda _checked=False, i=i: self.chosen.emit(i))
            self.buttons.append(step_button)
            inside.addWidget(step_button)
        inside.addStretch(1)
        inside.addWidget(self._place)
        self.project_button = QPushButton("Project")
        self.project_button.setToolTip("Project: open, save, undo, preferences")
        self.project_button.clicked.connect(self._open_menu)
        inside.addSpacing(6)
        inside.addWidget(self.project_button)

    def _open_menu(self) -> None:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for name, text in PROJECT_ACTIONS:
            action = menu.addAction(text)
            action.triggered.connect(lambda _checked=False, name=name: self.asked.emit(name))
        menu.popup(self.project_button.mapToGlobal(self.project_button.rect().bottomLeft()))

    def show_step(self, index: int) -> None:
        """Mark the open step."""
        self.step = index
        if any(step_button.hasFocus() for step_button in self.buttons):
            # The keyboard goes along, whether the step was opened by pressing or by its number.
            self.buttons[index].setFocus()
        for i, step_button in enumerate(self.buttons):
            step_button.setChecked(i == index)
            step_button.setIcon(_number_square(i + 1, i == index, self.devicePixelRatioF()))

    def show_place(self, text: str) -> None:
        """Say whose pictures these are."""
        self._place.setText(text)


def _number_square(number: int, filled: bool, ratio: float) -> QIcon:
    side = round(18 * ratio)
    pixmap = QPixmap(side, side)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    box = QRectF(0.5, 0.5, 17, 17)
    painter.setPen(theme.colour(theme.MOSS if filled else theme.CONTROL_EDGE))
    if filled:
        painter.fillRect(box, theme.colour(theme.MOSS))
    painter.drawRect(box)
    painter.setPen(theme.colour(theme.ON_INK if filled else theme.SOFT))
    painter.setFont(theme.font(12))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))
    painter.end()
    return QIcon(pixmap)
