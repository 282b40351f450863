"""A field for a number."""

from __future__ import annotations

from PySide6.QtCore import QLocale, Qt, Signal
from PySide6.QtGui import QDoubleValidator
from PySide6.QtWidgets import QLineEdit


class NumberField(QLineEdit):
    """A field for a number; tells when the user finished entering one."""

    entered = Signal(float)

    def __init__(self, name: str, tip: str, width: int = 72, *, minimum: float = 0.0001) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.setToolTip(tip)
        self.setFixedWidth(width)
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        validator = QDoubleValidator(minimum, 1e7, 4, self)
        validator.setLocale(QLocale.c())
        validator.setNotation(QDoubleValidator.Notation.StandardNotation)
        self.setValidator(validator)
        self.editingFinished.connect(self._tell)
        self._shown = ""

    def show_number(self, value: float, decimals: int) -> None:
        """Show a number without telling."""
        self._shown = f"{value:.{decimals}f}"
        self.setText(self._shown)

    def _tell(self) -> None:
        if self.text() != self._shown:
            self._shown = self.text()
            self.entered.emit(float(self.text().replace(",", ".")))
