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

from wamplex.app.shared.widgets import ChoiceRow, button, frame, label, row, scrolling_panel, set_tooltip
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.base.errors import WamplexError
from wamplex.core.colour.icc import profile_name
from wamplex.core.deliver.deliver import result_source_type
from wamplex.core.deliver.request.cmyk_profile import printer_profile
from wamplex.core.deliver.request.delivery import Delivery, MetadataChoice
from wamplex.core.deliver.request.file_formats import FILE_FORMATS
from wamplex.core.deliver.request.naming import FIELDS
from wamplex.core.deliver.request.size_limits import free_bytes
from wamplex.core.geometry.pages import Pages
from wamplex.core.geometry.paper import PAPERS
from wamplex.core.geometry.sheet import file_pixels
from wamplex.core.geometry.size_text import byte_size_text, size_summary
from wamplex.core.guests.guest_use import guest_provenance_text
from wamplex.core.model.development import SPACE_WORDS
from wamplex.core.model.settings import load_settings
from wamplex.core.provenance.source_type import TERM_LABELS
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.workflow.orders.order import Order, create_order, page_count
from wamplex.core.workflow.queue.throughput import duration_text, expected_seconds

_FORMATS: list[tuple[object, str, str]] = [(key, info.label, info.tooltip) for key, info in FILE_FORMATS.items()]
_PROFILES = {
    "as the source": "source",
    "sRGB": "srgb",
    "Adobe RGB (1998) compatible": "adobe-rgb",
    "Display P3": "display-p3",
}

_INKS = "a printer's inks…"
_METADATA: dict[MetadataChoice, str] = {
    "safe": "all but private",
    "all": "all",
    "rights": "rights, description",
    "none": "none",
}
_PAGES: tuple[tuple[str, Pages | None], ...] = (
    ("one file", None),
    *((f"{p.name} pages", Pages(width_mm=p.short_mm, height_mm=p.long_mm)) for p in PAPERS[1:5]),
)


class DeliverPanel(QWidget):
    """Holds the delivery settings; tells when they change."""

    changed = Signal()
    use_for_all_asked = Signal()
    recipes_asked = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.delivery = Delivery()
        self._make_file_controls()
        self._make_content_controls()
        self._make_place_controls()
        panel, inside = scrolling_panel()
        outside = QVBoxLayout(self)
        outside.setContentsMargins(0, 0, 0, 0)
        outside.addWidget(panel)
        inside.addWidget(label("File", "heading"))
        self._quality_box = _line("Quality", self.quality)
        self._depth_box = _line("Depth", self.depths, label("bit"))
        self._compression_box = _line("Compression", self.compressions)
        self._chroma_box = _stack_row("Colour", self.chroma)
        for part in (
            self.formats,
            self._depth_box,
            self._compression_box,
            self._quality_box,
            self._chroma_box,
            self.progressive,
        ):
            inside.addWidget(part)
        self._profile_box, self._pages_box = _line("Profile", self.profiles), _line("Pages", self.pages)
        inside.addWidget(self._profile_box)
        inside.addWidget(self._pages_box)
        inside.addWidget(_line("Metadata", self.metadata))
        inside.addWidget(self.recipe_inside)
        inside.addWidget(self.source_type)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("Place and name", "heading"))
        inside.addLayout(row(label("Folder"), None, self.next_to_source, self.elsewhere, spacing=4))
        inside.addWidget(self._folder_text)
        inside.addWidget(self._subfolder_box)
        inside.addWidget(self.copy_source)
        inside.addWidget(_line("Name", self.pattern))
        inside.addWidget(self._name_text)
        inside.addWidget(frame("rule"))
        inside.addWidget(label("What is delivered", "heading"))
        inside.addWidget(self._format)
        inside.addWidget(self._for_all)
        inside.addWidget(self._recipes)
        inside.addStretch(1)

    @property
    def format_text(self) -> str:
        """Text on the file that will be delivered."""
        return self._format.text()

    @property
    def name_text(self) -> str:
        """The name the next file gets, or why there is none."""
        return self._name_text.text()

    def show_entries(self, current: TrayEntry | None, usable: list[TrayEntry]) -> None:
        """Say what the settings come to for these pictures."""
        is_jpeg = self.delivery.format == "jpeg"
        self.formats.show_value(self.delivery.format)
        self.depths.show_value(self.delivery.depth)
        self.compressions.show_value(self.delivery.compression)
        for part in (self._quality_box, self._chroma_box, self.progressive):
            part.setVisible(is_jpeg)
        self.chroma.show_value(self.delivery.chroma)
        self._depth_box.setVisible(len(FILE_FORMATS[self.delivery.format].depths) > 1)
        self._profile_box.setVisible(self.delivery.format != "dng")
        self._pages_box.setVisible(self.delivery.format != "dng")
        self._compression_box.setVisible(self.delivery.format == "tiff")
        folder = self.delivery.folder
        self.next_to_source.setChecked(folder is None)
        self.elsewhere.setChecked(folder is not None)
        self._folder_text.setText("" if folder is None else str(folder))
        self._folder_text.setVisible(folder is not None)
        self._for_all.setVisible(current is not None and len(usable) > 1)
        self._name_text.setText(self._name_sentence(current))
        self._format.setText(_format_text(current, usable, self.delivery))

    def use(self, delivery: Delivery) -> None:
        """Take over all settings."""
        self.delivery = delivery
        self.quality.blockSignals(True)
        self.quality.setValue(delivery.quality)
        self.quality.blockSignals(False)
        self.metadata.setCurrentIndex(self.metadata.findData(delivery.metadata))
        self.recipe_inside.setChecked(delivery.keep_recipe)
        self.source_type.setChecked(delivery.source_type)
        self._show_profile()
        self.pattern.setText(delivery.name_pattern)
        self.subfolder.setText(delivery.subfolder or "")
        self.copy_source.setChecked(delivery.copy_source)
        self.progressive.setChecked(delivery.progressive)
        places = [pages for _, pages in _PAGES]
        self.pages.setCurrentIndex(places.index(delivery.pages) if delivery.pages in places else 0)
        self.changed.emit()

    def set_folder(self, folder: Path | None) -> None:
        """Deliver into a folder; None means beside the source."""
        self._set("folder", folder)

    def _make_file_controls(self) -> None:
        self.formats = ChoiceRow("Format", _FORMATS, lambda v: self._set("format", v), columns=3)
        self.depths = ChoiceRow(
            "Depth",
            [(8, "8", "256 steps per channel"), (16, "16", "65,536 steps per channel, for further editing")],
            lambda v: self._set("depth", v),
        )
        self.compressions = ChoiceRow(
            "Compression",
            [
                ("deflate", "deflate", "Smaller files, lossless"),
                ("lzw", "LZW", "Larger files than deflate; old print software reads it"),
                ("none", "none", "For software that reads neither"),
            ],
            lambda v: self._set("compression", v),
        )
        self.chroma = ChoiceRow(
            "Colour",
            [
                ("auto", "auto", "4:4:4 from quality 90, else 4:2:0"),
                ("444", "in full", "4:4:4, colour at every pixel: red lettering stays clean"),
                ("422", "across", "4:2:2, colour at half the horizontal resolution"),
                ("420", "halved", "4:2:0, colour at half the resolution: smaller files"),
            ],
            lambda v: self._set("chroma", v),
        )
        self.progressive = QCheckBox("Progressive")
        self.progressive.setToolTip("Slow connections show the whole picture early")
        self.progressive.toggled.connect(lambda on: self._set("progressive", on))
        self.quality = QSpinBox()
        self.quality.setRange(1, 100)
        self.quality.setValue(self.delivery.quality)
        self.quality.valueChanged.connect(lambda v: self._set("quality", v))
        set_tooltip(
            self.quality,
            "JPEG quality",
            "Higher: more detail, larger files. 90 and more for prints",
        )

    def _make_content_controls(self) -> None:
        self.profiles = QComboBox()
        self.profiles.addItems(list(_PROFILES))
        self.profiles.setMaximumWidth(185)
        self.profiles.addItem(_INKS)
        self.profiles.textActivated.connect(self._choose_profile)
        set_tooltip(self.profiles, "Colour profile", "Keep the source's profile, or convert the colours to another")
        self.pages = QComboBox()
        for text, pages in _PAGES:
            self.pages.addItem(text, pages)
        self.pages.activated.connect(lambda index: self._set("pages", self.pages.itemData(index)))
        set_tooltip(
            self.pages,
            "Pages",
            "Divide a print that is larger than the printer's paper. Pages overlap by 10 mm, with marks for assembly",
        )
        self.metadata = QComboBox()
        for choice, text in _METADATA.items():
            self.metadata.addItem(text, choice)
        self.metadata.activated.connect(lambda index: self._set("metadata", self.metadata.itemData(index)))
        set_tooltip(
            self.metadata,
            "Metadata",
            "What to copy of the source's EXIF, XMP and IPTC. Private are the place, serial numbers, the owner's name "
            "and comments",
        )
        self.recipe_inside = QCheckBox("Write the recipe into the file")
        self.recipe_inside.setChecked(True)
        self.recipe_inside.setToolTip("The file then says how it was made. It names the source, not its folder")
        self.recipe_inside.toggled.connect(lambda on: self._set("keep_recipe", on))

        self.source_type = QCheckBox("State how pixels were made")
        self.source_type.setChecked(True)
        self.source_type.setToolTip("Writes the Digital Source Type of IPTC: learned upscalers count as enhancement")
        self.source_type.toggled.connect(lambda on: self._set("source_type", on))

    def _make_place_controls(self) -> None:
        self.next_to_source = button("beside the source", "Write next to each source", lambda: self.set_folder(None))
        self.elsewhere = button("choose…", "Write into one folder", self._choose_folder)
        self.next_to_source.setCheckable(True)
        self.elsewhere.setCheckable(True)
        self._folder_text = label("", "soft", wrap=True)
        self.subfolder = QLineEdit()
        self.subfolder.setPlaceholderText("none")
        self.subfolder.setFixedWidth(170)
        self.subfolder.setMaxLength(100)
        self.subfolder.textChanged.connect(self._set_subfolder)
        set_tooltip(self.subfolder, "Subfolder", "Write to a subfolder of this name; it is created if missing")
        self._subfolder_box = _line("Subfolder", self.subfolder)
        self.copy_source = QCheckBox("Copy the source too")
        self.copy_source.setToolTip("Put a copy of the source beside the file")
        self.copy_source.toggled.connect(lambda on: self._set("copy_source", on))
        self.pattern = QLineEdit(self.delivery.name_pattern)
        self.pattern.setFixedWidth(170)
        self.pattern.textChanged.connect(lambda words: self._set("name_pattern", words))
        set_tooltip(
            self.pattern,
            "Name pattern",
            f"Fields: {' '.join(f'{{{field}}}' for field in FIELDS)}",
        )
        self._name_text = label("", "soft", wrap=True)
        self._format = label("", "", wrap=True)
        self._for_all = button(
            "use these decisions for all pictures",
            "Gives every picture in the tray the same factor, density and stamped trial",
            self.use_for_all_asked.emit,
            "link",
        )
        self._recipes = button(
            "recipes…",
            "Store these decisions under a name, or apply others to some or all pictures (Ctrl+R)",
            self.recipes_asked.emit,
            "link",
        )

    def _set(self, field: str, value: object) -> None:
        self.delivery = self.delivery.replace(**{field: value})
        self.changed.emit()

    def _set_subfolder(self, text: str) -> None:
        name = text.replace("/", "").strip()
        self._set("subfolder", name or None)

    def _choose_profile(self, text: str) -> None:
        """A profile of colours, or a printer's, which is asked for."""
        if text in _PROFILES:
            self.delivery = self.delivery.replace(profile=_PROFILES[text], printer=None)
        else:
            chosen, _ = QFileDialog.getOpenFileName(
                self, "ICC profile of the printer and paper", "/usr/share/color/icc", "Profiles (*.icc *.icm)"
            )
            if chosen:
                self.delivery = self.delivery.replace(printer=Path(chosen))
            self._show_profile()
        self.changed.emit()

    def _show_profile(self) -> None:
        names = list(_PROFILES.values())
        chosen = len(names) if self.delivery.printer is not None else names.index(self.delivery.profile)
        self.profiles.setCurrentIndex(chosen)

    def _choose_folder(self) -> None:
        chosen = QFileDialog.getExistingDirectory(self, "Folder for the print files")
        self.set_folder(Path(chosen) if chosen else self.delivery.folder)

    def _name_sentence(self, current: TrayEntry | None) -> str:
        if current is None or current.header is None:
            return ""
        recipe = current.delivered_recipe()
        try:
            printer_profile(self.delivery)
            order = create_order(current.header, recipe, self.delivery)
            count = page_count(current.header, recipe, self.delivery)
        except WamplexError as error:
            return str(error)
        name = order.planned.name
        if count > 1:
            return f"{name}, as {count} pages with row and column in their names"
        return f"{name} · an existing file is never replaced; a number is added{self._estimate(current, order)}"

    def _estimate(self, current: TrayEntry, order: Order) -> str:
        """About how large the file will be, how long it takes, and what the disk has left."""
        assert current.size is not None
        seconds = expected_seconds(order.recipe, current.size.megapixels)
        time = "" if seconds is None else f", {duration_text(seconds)} as measured here"
        free = byte_size_text(free_bytes(self.delivery.folder or current.path.parent))
        return f"\nAbout {byte_size_text(order.expected_bytes)}{time}; {free} free."


def _line(name: str, *parts: QWidget) -> QWidget:
    widget = QWidget()
    inside: QHBoxLayout = row(label(name), None, *parts, spacing=4)
    widget.setLayout(inside)
    for part in parts:
        inside.setAlignment(part, Qt.AlignmentFlag.AlignVCenter)
    return widget


def _stack_row(name: str, part: QWidget) -> QWidget:
    """For what leaves no room for its name beside it."""
    widget = QWidget()
    inside = QVBoxLayout(widget)
    inside.setContentsMargins(0, 0, 0, 0)
    inside.setSpacing(2)
    inside.addWidget(label(name))
    inside.addWidget(part)
    return widget


def _format_text(current: TrayEntry | None, usable: list[TrayEntry], delivery: Delivery) -> str:
    if current is None or current.size is None or current.header is None:
        return "Add pictures to the tray first."
    upscaler = find_upscaler(current.delivered_upscaler)
    stamped = current.stamped
    reason = f"stamped, trial {stamped}" if stamped else "not stamped yet; the suggestion is used"
    unstamped = sum(1 for e in usable if e.stamped is None)
    text = f"{current.path.name}: {upscaler.name} ({reason}), {size_summary(current.size, load_settings().unit)}."
    if current.sheet is not None:
        width, height = file_pixels(current.size, current.sheet)
        text += f"\nOn a sheet, {current.sheet.name}: a file of {width} × {height} px."
    text += f"\n{_colour_text(current, delivery)}."
    elsewhere = guest_provenance_text(current.delivered_recipe())
    if elsewhere:
        text += f"\nNot made here: {elsewhere}"
    term = result_source_type(current.delivered_recipe(), None) if delivery.source_type else None
    if term is not None:
        text += f"\nStated as: {TERM_LABELS[term]} (IPTC Digital Source Type)."
    if len(usable) > 1:
        text += f"\nEach uses its own stamped trial and size; {unstamped} of {len(usable)} are not stamped."
    return text


def _colour_text(current: TrayEntry, delivery: Delivery) -> str:
    assert current.header is not None
    if delivery.printer is not None:
        return f"Separated for {delivery.printer.name}, for TIFF and PDF"
    if delivery.format == "dng":
        return (
            "Linear light in camera colours, not clipped"
            if current.raw
            else "Linear light in the source's own primaries"
        )
    if current.raw:
        return f"Developed into {SPACE_WORDS[current.decisions.development.space]}; the file carries its profile"
    return f"Profile of the source: {profile_name(current.header.profile)}"
