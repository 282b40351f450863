"""Dialog for the colour view: for which screen, and as which print."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QCheckBox, QDialog, QFileDialog, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import ChoiceRow, button, frame, label, row
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.base.errors import DeliveryError
from wamplex.core.colour.convert import RenderingIntent
from wamplex.core.colour.screen_view import ScreenView
from wamplex.core.colour.soft_proof import out_of_gamut_fraction, read_profile
from wamplex.core.model.settings import SRGB_SCREEN

_INTENTS: list[tuple[object, str, str]] = [
    ("relative", "Relative", "Printable colours stay; others become the nearest printable colour"),
    ("perceptual", "Perceptual", "All colours shift a little, so that differences are kept"),
]
_FOLDER, _KINDS = "/usr/share/color/icc", "ICC profiles (*.icc *.icm)"


class ColoursDialog(QDialog):
    """Changes at once what is shown; nothing of it changes what is written."""

    changed = Signal(object)  # View
    screen_chosen = Signal(str)  # file of the screen's profile, or as in the settings

    def __init__(
        self, view: ScreenView, names: tuple[str, str], entry: TrayEntry | None, parent: QWidget | None
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Colours on the bench")
        self.setMinimumWidth(470)
        self.view, self._names, self._entry = view, list(names), entry
        self._profile: bytes | None = None
        self._screen, self._proof = label("", "strong"), label("", "strong")
        self._weight = label("", "soft", wrap=True)
        self.intents = ChoiceRow("RenderingIntent", _INTENTS, self._choose_intent)
        self.paper = _check("Simulate paper white", "Simulate paper white and ink black")
        self.with_file = _check("File beside it", "In Linked and Curtain, show the file without the proof beside it")
        for box in (self.paper, self.with_file):
            box.toggled.connect(lambda _on: self._choose_looks())
        inside = QVBoxLayout(self)
        inside.setContentsMargins(20, 16, 20, 16)
        inside.setSpacing(10)
        choose_screen = button("choose…", "Choose the ICC profile of your screen", self._ask_screen)
        plain_screen = button("sRGB", "Assume an sRGB screen", lambda: self.use_screen(None))
        tip = "Use the desktop's profile for this screen"
        self.as_desktop = button("as the desktop", tip, lambda: self.screen_chosen.emit(""))
        choose_proof = button("choose…", "Show the print, simulated by the profile of the printer", self._ask_proof)
        self.no_proof = button("off", "Show the colours of the file", lambda: self.use_proof(None))
        inside.addWidget(label("Screen", "heading"))
        inside.addLayout(row(self._screen, None, self.as_desktop, plain_screen, choose_screen, spacing=4))
        inside.addWidget(frame("rule"))
        inside.addWidget(label("Soft proof", "heading"))
        inside.addLayout(row(self._proof, None, self.no_proof, choose_proof, spacing=4))
        inside.addLayout(row(label("Rendering intent"), None, self.intents))
        inside.addLayout(row(self.paper, self.with_file, None))
        inside.addWidget(self._weight)
        inside.addWidget(label("This changes the view only, not the files.", "soft"))
        inside.addLayout(row(None, button("Close", "Apply", self.close, "main")))
        self._show()

    @property
    def names(self) -> tuple[str, str]:
        """Names of the profiles of screen and printer."""
        return self._names[0], self._names[1]

    @property
    def text(self) -> str:
        """Texts of the dialog, with the out-of-gamut fraction."""
        return f"{self._screen.text()} · {self._proof.text()} · {self._weight.text()}"

    def use_screen(self, path: Path | None) -> None:
        """Take another screen's profile, or none."""
        if self._read(path, (3,)):
            self._take(replace(self.view, screen=self._profile), 0, "sRGB" if path is None else path.name)
            self.screen_chosen.emit(SRGB_SCREEN if path is None else str(path))

    def show_screen(self, screen: bytes | None, name: str) -> None:
        """The desktop has told the screen's profile."""
        self.view, self._names[0] = replace(self.view, screen=screen), name
        self._show()

    def use_proof(self, path: Path | None) -> None:
        """Simulate a printer, or none."""
        if self._read(path, (3, 4)):
            self._take(replace(self.view, proof=self._profile), 1, "none" if path is None else path.name)

    def _read(self, path: Path | None, channels: tuple[int, ...]) -> bool:
        """Read a profile; what is wrong with it is said."""
        try:
            self._profile = None if path is None else read_profile(path, channels)
        except DeliveryError as error:
            self._weight.setText(str(error))
            return False
        return True

    def _take(self, view: ScreenView, place: int, name: str) -> None:
        self.view, self._names[place] = view, name
        self._show()
        self.changed.emit(self.view)

    def _choose_intent(self, intent: object) -> None:
        chosen: RenderingIntent = "perceptual" if intent == "perceptual" else "relative"
        self.view = replace(self.view, intent=chosen)
        self._show()
        self.changed.emit(self.view)

    def _choose_looks(self) -> None:
        self.view = replace(self.view, paper=self.paper.isChecked(), with_file=self.with_file.isChecked())
        self.changed.emit(self.view)

    def _show(self) -> None:
        self._screen.setText(self._names[0])
        self._proof.setText(self._names[1])
        for control in (self.intents, self.paper, self.with_file):
            control.setEnabled(self.view.proof is not None)
        for box, on in ((self.paper, self.view.paper), (self.with_file, self.view.with_file)):
            box.blockSignals(True)
            box.setChecked(on)
            box.blockSignals(False)
        self.intents.show_value(self.view.intent)
        self._weight.setText(self._gamut_text())

    def _gamut_text(self) -> str:
        pixels = None if self._entry is None else self._entry.thumbnail
        if self.view.proof is None or pixels is None or self._entry is None:
            return ""
        fraction = out_of_gamut_fraction(pixels[::3, ::3], self.view.proof, self.view.intent)
        name = self._entry.path.name
        if fraction < 0.001:
            return f"All colours of {name} can be printed."
        return f"{100 * fraction:.1f} % of {name} will look different in print."

    def _ask_screen(self) -> None:
        self._ask("Profile of the screen", self.use_screen)

    def _ask_proof(self) -> None:
        self._ask("Profile of printer and paper", self.use_proof)

    def _ask(self, title: str, use: object) -> None:
        chosen, _ = QFileDialog.getOpenFileName(self, title, _FOLDER, _KINDS)
        if chosen and callable(use):
            use(Path(chosen))


def _check(text: str, tip: str) -> QCheckBox:
    check_box = QCheckBox(text)
    check_box.setToolTip(tip)
    return check_box


def view_text(view: ScreenView, names: tuple[str, str]) -> str:
    """Text for the status line."""
    white = ", white of its paper" if view.paper else ""
    proof = f" · proof: {names[1]}{white}" if view.proof is not None else ""
    return f"colours: {names[0]}{proof}"
