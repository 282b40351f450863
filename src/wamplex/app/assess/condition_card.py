"""One row of the condition sheet: what was measured, why, a picture of it, and a suggestion to tick."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QEvent, Qt, Signal
from PySide6.QtGui import QEnterEvent, QPixmap
from PySide6.QtWidgets import QCheckBox, QFrame, QHBoxLayout, QLabel, QVBoxLayout

from wamplex.app.shared.images import to_image
from wamplex.app.shared.widgets import label, row
from wamplex.core.analysis.report.finding import Finding, RowKey, Suggestion


class ConditionCard(QFrame):
    """Shows a finding; the pointer over it asks for its mask on the picture."""

    pointed_at = Signal(str)  # key of the row, empty when the pointer has left

    def __init__(self, key: RowKey) -> None:
        super().__init__()
        self.setProperty("role", "card")
        self.key = key
        self.finding: Finding | None = None
        self._title, self._value = label("", "strong"), label("", "", wrap=True)
        self._value.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._reason = label("", "soft", wrap=True)
        self._picture = QLabel()
        self._picture.setVisible(False)
        self._picture.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._picture.setAccessibleName("An example from the picture")
        self.tick = QCheckBox()
        self.tick.setVisible(False)
        text = QVBoxLayout()
        text.setSpacing(3)
        text.addWidget(self._reason)
        text.addWidget(self.tick)
        text.addStretch(1)
        below = QHBoxLayout()
        below.setSpacing(8)
        below.addWidget(self._picture)
        below.addLayout(text, 1)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(9, 5, 9, 6)
        inside.setSpacing(3)
        head = row(self._title)
        head.addWidget(self._value, 1)  # a long value takes a second line, rather than widen the whole sheet
        inside.addLayout(head)
        inside.addLayout(below)

    @property
    def text(self) -> str:
        """Everything the card says."""
        return f"{self._title.text()}: {self._value.text()}. {self._reason.text()}"

    @property
    def chosen(self) -> Suggestion | None:
        """The suggestion, if it is ticked."""
        return self.finding.suggestion if self.finding is not None and self.tick.isChecked() else None

    def show_finding(self, finding: Finding, crop_pixels: NDArray[np.uint8] | None) -> None:
        """Show a finding; a tick that the user has changed stays as it is."""
        if self.finding is None and finding.suggestion is not None:
            self.tick.setChecked(finding.suggestion.at_first)
        self.finding = finding
        self._title.setText(finding.title)
        self._value.setText(finding.value)
        self._reason.setText(finding.reason)
        self.tick.setVisible(finding.suggestion is not None)
        if finding.suggestion is not None:
            self.tick.setText(finding.suggestion.text)
            self.tick.setToolTip(f"Applied when you press “Use the ticked suggestions”: {finding.suggestion.text}")
            self.tick.setAccessibleName(finding.suggestion.text)
        self._picture.setVisible(crop_pixels is not None)
        if crop_pixels is not None:
            self._picture.setPixmap(QPixmap.fromImage(to_image(crop_pixels)))
            self._picture.setToolTip("Where this was measured, enlarged or with more contrast")
        self.setAccessibleName(self.text)

    def enterEvent(self, event: QEnterEvent) -> None:
        """The pointer is over the card."""
        self.pointed_at.emit(self.key)

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer has left."""
        self.pointed_at.emit("")
