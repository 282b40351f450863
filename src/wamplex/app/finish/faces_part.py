"""Panel for faces: which faces there are, and how they are treated."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRect, Qt, Signal
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from wamplex.app.finish.mix_part import trial_text
from wamplex.app.shared.value_slider import ValueSlider
from wamplex.app.shared.widgets import button, clear, label, row
from wamplex.app.tray.entry import TrayEntry
from wamplex.core.model.finish_values import FaceTreatment, TreatedFace

_PICTURE_PX = 44


class FacesPart(QWidget):
    """Emits what the user asks for; changes no decision itself."""

    source_trial_asked = Signal(object)  # TrialSpec, or None to leave them as they are
    ticked = Signal(int, bool)
    one_asked = Signal(int, object, object)  # number, TrialSpec or None for that of all, strength or None
    removed = Signal(int)
    changed = Signal(str, float)  # field of Faces, value
    closer_asked = Signal()
    add_asked = Signal(bool)  # whether an oval is to be drawn now

    def __init__(self) -> None:
        super().__init__()
        self._entry: TrayEntry | None = None
        self._faces = FaceTreatment()
        self.boxes: list[QCheckBox] = []
        self._list = QVBoxLayout()
        self._list.setSpacing(4)
        self.with_button = button(
            "Trial for faces", "A separate trial for the ticked faces, through soft ellipses", self._choose
        )
        self.add_button = button("Add a face", "Drag an ellipse over a face that was missed", self._add)
        self.add_button.setCheckable(True)
        self.closer_button = button("Look closer", "Search again, for tilted faces too", self.closer_asked.emit)
        self.strength = ValueSlider("Strength", "Strength of the trial for faces", 100, "%")
        self.attenuation = ValueSlider("Less sharpening", "How much less sharpening and grain faces get", 100, "%")
        self._text = label("", "soft", wrap=True)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(7)
        inside.addWidget(label("Faces", "heading"))
        inside.addWidget(self._text)
        inside.addLayout(self._list)
        inside.addLayout(row(self.add_button, self.closer_button, None, spacing=4))
        inside.addLayout(row(self.with_button, None))
        inside.addWidget(self.strength)
        inside.addWidget(self.attenuation)
        self.strength.moved.connect(lambda value: self.changed.emit("strength", value))
        self.attenuation.moved.connect(lambda value: self.changed.emit("attenuation", value))

    def show_entry(self, entry: TrayEntry, faces: FaceTreatment, *, adding: bool) -> None:
        """Show the faces as small pictures, each with a tick."""
        self._entry, self._faces = entry, faces
        clear(self._list)
        self.boxes = []
        for number, face in enumerate(faces.ellipses):
            self._list.addLayout(self._row(number, face, entry))
        count = len(faces.ellipses)
        self._text.setText(
            "No face was found. Drag an ellipse over each face."
            if count == 0
            else "Faces are treated only if they are ticked and a trial is chosen here."
        )
        self.add_button.setChecked(adding)
        any_on = any(face.on for face in faces.ellipses)
        self.with_button.setVisible(count > 0)
        self.with_button.setEnabled(any_on)
        name = "same as the picture" if faces.source_trial is None else " ".join(trial_text(entry, faces.source_trial))
        self.with_button.setText(f"Trial for faces: {name}")
        self.strength.setVisible(faces.source_trial is not None)
        self.attenuation.setVisible(any_on)
        self.strength.show_value(faces.strength)
        self.attenuation.show_value(faces.attenuation)

    def _row(self, number: int, face: TreatedFace, entry: TrayEntry) -> QHBoxLayout:
        picture = QLabel()
        picture.setPixmap(_face_image(entry, face))
        box = QCheckBox(f"{face.width:.0f} px wide")
        box.setAccessibleName(f"Face {number + 1}, with its hair {face.width:.0f} source pixels wide")
        box.setToolTip("Treat this face separately")
        box.setChecked(face.on)
        box.toggled.connect(lambda on, n=number: self.ticked.emit(n, on))
        self.boxes.append(box)
        tip = "Not a face: remove it from the list"
        away = button("Not a face", tip, partial(self.removed.emit, number), "link")
        own = "same as other faces" if face.source_trial is None else " ".join(trial_text(entry, face.source_trial))
        if face.strength is not None:
            own += f", {face.strength:.0f} %"
        with_ = button(own, "Another trial or strength for this face only", partial(self._choose_one, number), "link")
        text = QVBoxLayout()
        text.setSpacing(1)
        text.addWidget(box)
        text.addLayout(row(with_, None, away))
        face_row = row(picture)
        face_row.addLayout(text, 1)
        return face_row

    def _choose_one(self, number: int) -> None:
        """A menu of what one face may be made with, and how strongly."""
        if self._entry is None:
            return
        menu, entry = QMenu(self), self._entry
        face = self._faces.ellipses[number]
        menu.addAction("Same as other faces").triggered.connect(
            lambda _checked=False: self.one_asked.emit(number, None, None)
        )
        for trial in entry.trials.remaining:
            spec = entry.trial_recipe(trial).base
            action = menu.addAction(f"{trial.letter}   {trial.upscaler.name}")
            action.triggered.connect(lambda _checked=False, spec=spec: self.one_asked.emit(number, spec, face.strength))
        menu.addSeparator()
        for strength in (25.0, 50.0, 75.0, 100.0):
            action = menu.addAction(f"{strength:.0f} % for this face")
            action.triggered.connect(
                lambda _checked=False, s=strength: self.one_asked.emit(number, face.source_trial, s)
            )
        menu.popup(self.mapToGlobal(self.rect().center()))

    def _choose(self) -> None:
        if self._entry is None:
            return
        menu = QMenu(self)
        entry = self._entry
        action = menu.addAction("Same as the picture")
        action.triggered.connect(lambda _checked=False: self.source_trial_asked.emit(None))
        for trial in entry.trials.remaining:
            spec = entry.trial_recipe(trial).base
            action = menu.addAction(f"{trial.letter}   {trial.upscaler.name}")
            action.triggered.connect(lambda _checked=False, spec=spec: self.source_trial_asked.emit(spec))
        menu.popup(self.with_button.mapToGlobal(self.with_button.rect().bottomLeft()))

    def _add(self) -> None:
        self.add_asked.emit(self.add_button.isChecked())


def _face_image(entry: TrayEntry, face: TreatedFace) -> QPixmap:
    """A face, small, out of the thumbnail."""
    assert entry.header is not None
    assert entry.thumbnail is not None
    height, width = entry.thumbnail.shape[:2]
    per = width / entry.header.width
    side = max(face.width, face.height) * per
    box = QRect(
        round(face.x * width - side / 2),
        round(face.y * height - side / 2),
        max(1, round(side)),
        max(1, round(side)),
    )
    pixels = entry.thumbnail
    image = QImage(pixels.tobytes(), width, height, 3 * width, QImage.Format.Format_RGB888)
    cut = image.copy(box.intersected(image.rect()))
    return QPixmap.fromImage(cut).scaled(
        _PICTURE_PX,
        _PICTURE_PX,
        Qt.AspectRatioMode.KeepAspectRatioByExpanding,
        Qt.TransformationMode.SmoothTransformation,
    )
