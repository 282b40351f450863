"""About: versions, licences, and the card of every network."""

from __future__ import annotations

import platform
from importlib.metadata import PackageNotFoundError, metadata, version

from PySide6.QtWidgets import QComboBox, QDialog, QTextBrowser, QVBoxLayout, QWidget

from wamplex.app.shared.widgets import button, label, row, set_tooltip
from wamplex.core.base.resources import FONTS_DIR, MODELS_DIR

# What does most of the work; all of it is installed with its own licence.
_LIBRARIES = (
    "PySide6-Essentials",
    "numpy",
    "scipy",
    "onnxruntime",
    "pyvips",
    "rawpy",
    "opencv-python-headless",
    "pillow",
    "tifffile",
    "reportlab",
    "pydantic",
)


class AboutDialog(QDialog):
    """One text at a time."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("About Wamplex")
        self.resize(760, 560)
        self.texts = QComboBox()
        set_tooltip(self.texts, "Text", "Versions, licences, or the card of a network")
        self.texts.addItem("Versions and licences", None)
        for path in sorted(MODELS_DIR.glob("*.md")):
            self.texts.addItem(f"Network card: {path.stem}", path)
        for path in sorted(FONTS_DIR.glob("*LICENSE.txt")):
            self.texts.addItem(f"Licence of the letters: {path.stem.removesuffix('-LICENSE')}", path)
        self.text = QTextBrowser()
        self.text.setAccessibleName("The text")
        self.texts.activated.connect(lambda _index: self._show())
        inside = QVBoxLayout(self)
        inside.setContentsMargins(20, 16, 20, 16)
        inside.addWidget(label(f"Wamplex {version('wamplex')}", "title"))
        inside.addWidget(label("Enlarges small pictures for large prints, and shows which way is best."))
        inside.addLayout(row(label("Show"), self.texts, None))
        inside.addWidget(self.text, 1)
        inside.addLayout(row(None, button("Close", "Close this window", self.close, "main")))
        self._show()

    def _show(self) -> None:
        path = self.texts.currentData()
        if path is None:
            self.text.setMarkdown(versions())
        elif path.suffix == ".md":
            self.text.setMarkdown(path.read_text())
        else:
            self.text.setPlainText(path.read_text())


def versions() -> str:
    """Markdown: what runs here, and under which licences."""
    lines = [
        f"Wamplex {version('wamplex')}, Apache License 2.0. Its networks were trained by its own authors on "
        "openly licensed pictures; each card says on which.",
        "",
        f"Python {platform.python_version()} on {platform.system()} {platform.machine()}",
        "",
    ]
    for name in _LIBRARIES:
        try:
            lines.append(f"- {name} {version(name)}{_licence(name)}")
        except PackageNotFoundError:
            continue
    return "\n".join(lines)


def _licence(name: str) -> str:
    """The name of a package's licence; some state all of its text."""
    package_info = metadata(name)
    fields = [field for field in ("License-Expression", "License") if field in package_info]
    licence = str(package_info[fields[0]]) if fields else ""
    first = licence.strip().splitlines()[0] if licence.strip() else ""
    return f", {first}" if 0 < len(first) < 60 else ""
