"""The panel of the Deliver step: format, profile, place and name."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFileDialog,
    QHBoxLayout,
    QLineEdit,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from wamplex.app.models.tray import Entry
from wamplex.app.views.parts import Choice, button, frame, label, row, side_panel
from wamplex.core.colour.icc import profile_words
from wamplex.core.deliver.limits import check_size
from wamplex.core.deliver.naming import planned_path
from wamplex.core.errors import WamplexError
from wamplex.core.geometry.words import summary
from wamplex.core.recipe import Delivery
from wamplex.core.upscale.registry import find_upscaler

_FORMATS: list[tuple[object, str, str]] = [
    ("tiff", "TIFF", "For print shops: 8 or 16 bits, nothing lost"),
    ("png", "PNG", "8 or 16 bits, nothing lost, opens everywhere"),
    ("jpeg", "JPEG", "Small files; a little is lost"),
]
_PROFILES = {
    "as the source": "source",
    "sRGB": "srgb",
    "Adobe RGB (1998) compatible": "adobe-rgb",
    "Display P3": "display-p3",
}


class DeliverPanel(QWidget):
    """Holds the delivery settings; tells when they change."""

    changed = Signal()
    use_for_all_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.delivery = Delivery()
        self._make_controls()
        panel, inside = side_panel()
        outside = QVBoxLayout(self)
        outside.setContentsMargins(0, 0, 0, 0)
        outside.addWidget(panel)
        inside.addWidget(label("File", "heading"))
        self._quality_box = _line("Quality", self.quality)
        self._depth_box = _line("Depth", self.depths, label("bit"))
        self._compression_box = _line("Compression", self.compressions)
        for part in (
            _line("Format", self.formats),
            self._depth_box,
            self._compression_box,
            self._quality_box,
        ):
            inside.addWidget(part)
        inside.addWidget(_line("Profile", self.profiles))
        inside.addWidget(self.metadata)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("Place and name", "heading"))
        inside.addLayout(row(label("Folder"), None, self.beside, self.elsewhere, spacing=4))
        inside.addWidget(self._folder_words)
        inside.addWidget(_line("Name", self.pattern))
        inside.addWidget(self._name_words)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("What is delivered", "heading"))
        inside.addWidget(self._what)
        inside.addWidget(self._for_all)
        inside.addStretch(1)

    @property
    def name_words(self) -> str:
        """The name the next file gets, or why there is none."""
        return self._name_words.text()

    def show_entries(self, current: Entry | None, usable: list[Entry]) -> None:
        """Say what the settings come to for these pictures."""
        is_jpeg = self.delivery.format == "jpeg"
        self.formats.show_value(self.delivery.format)
        self.depths.show_value(self.delivery.depth)
        self.compressions.show_value(self.delivery.compression)
        self._quality_box.setVisible(is_jpeg)
        self._depth_box.setVisible(not is_jpeg)
        self._compression_box.setVisible(self.delivery.format == "tiff")
        folder = self.delivery.folder
        self.beside.setChecked(folder is None)
        self.elsewhere.setChecked(folder is not None)
        self._folder_words.setText("" if folder is None else str(folder))
        self._folder_words.setVisible(folder is not None)
        self._for_all.setVisible(current is not None and len(usable) > 1)
        self._name_words.setText(self._name_sentence(current))
        self._what.setText(_what_words(current, usable))

    def set_folder(self, folder: Path | None) -> None:
        """Deliver into a folder; None means beside the source."""
        self._set("folder", folder)

    def _make_controls(self) -> None:
        self.formats = Choice("Format", _FORMATS, lambda v: self._set("format", v))
        self.depths = Choice(
            "Depth",
            [(8, "8", "256 steps a channel"), (16, "16", "65,536 steps a channel, for editing on")],
            lambda v: self._set("depth", v),
        )
        self.compressions = Choice(
            "Compression",
            [
                ("deflate", "deflate", "Smaller files, nothing lost"),
                ("none", "none", "For old software that cannot read deflate"),
            ],
            lambda v: self._set("compression", v),
        )
        self.quality = QSpinBox()
        self.quality.setRange(1, 100)
        self.quality.setValue(self.delivery.quality)
        self.quality.setAccessibleName("JPEG quality")
        self.quality.setToolTip("Higher keeps more detail and makes larger files; 90 and more for prints")
        self.quality.valueChanged.connect(lambda v: self._set("quality", v))
        self.profiles = QComboBox()
        self.profiles.addItems(list(_PROFILES))
        self.profiles.setAccessibleName("Colour profile")
        self.profiles.setToolTip("Keep the source's profile, or convert the colours to another")
        self.profiles.setMaximumWidth(185)
        self.profiles.textActivated.connect(lambda words: self._set("profile", _PROFILES[words]))
        self.metadata = QCheckBox("Keep date, camera and description")
        self.metadata.setChecked(True)
        self.metadata.setToolTip("Carry EXIF, XMP and IPTC from the source over to the file")
        self.metadata.toggled.connect(lambda on: self._set("keep_metadata", on))
        self.beside = button("beside the source", "Write next to each source", lambda: self.set_folder(None))
        self.elsewhere = button("choose…", "Write into one folder", self._choose_folder)
        self.beside.setCheckable(True)
        self.elsewhere.setCheckable(True)
        self._folder_words = label("", "soft", wrap=True)
        self.pattern = QLineEdit(self.delivery.name_pattern)
        self.pattern.setAccessibleName("Name pattern")
        self.pattern.setToolTip("Fields: {name} {factor} {upscaler} {width} {height} {ppi}")
        self.pattern.setFixedWidth(170)
        self.pattern.textChanged.connect(lambda words: self._set("name_pattern", words))
        self._name_words = label("", "soft", wrap=True)
        self._what = label("", "", wrap=True)
        self._for_all = button(
            "use these choices for all pictures",
            "Gives every picture in the tray the same factor, density and stamped trial",
            self.use_for_all_asked.emit,
            "link",
        )

    def _set(self, field: str, value: object) -> None:
        self.delivery = self.delivery.model_copy(update={field: value})
        self.changed.emit()

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Folder for the print files")
        self.set_folder(Path(chosen) if chosen else self.delivery.folder)

    def _name_sentence(self, current: Entry | None) -> str:
        if current is None or current.size is None:
            return ""
        recipe = current.recipe(current.delivered_upscaler, self.delivery)
        try:
            check_size(current.size, self.delivery)
            name = planned_path(current.path, recipe, current.size).name
        except WamplexError as error:
            return str(error)
        return f"{name} · an existing file is never replaced; a number is added"


def _line(name: str, *parts: QWidget) -> QWidget:
    made = QWidget()
    inside: QHBoxLayout = row(label(name), None, *parts, spacing=4)
    made.setLayout(inside)
    for part in parts:
        inside.setAlignment(part, Qt.AlignmentFlag.AlignVCenter)
    return made


def _what_words(current: Entry | None, usable: list[Entry]) -> str:
    if current is None or current.size is None or current.found is None:
        return "Add pictures to the tray first."
    upscaler = find_upscaler(current.delivered_upscaler)
    stamped = current.trials.stamped
    reason = f"stamped, trial {stamped}" if stamped else "nothing stamped yet, so the default"
    unstamped = sum(1 for e in usable if e.trials.stamped is None)
    words = f"{current.path.name}: {upscaler.name} ({reason}), {summary(current.size, 'cm')}."
    words += f"\nProfile of the source: {profile_words(current.found.profile)}."
    if len(usable) > 1:
        words += f"\nEach uses its own stamped trial and size; {unstamped} of {len(usable)} are not stamped."
    return words
