"""The decisions of the Finish step: each method makes one decision about the selected picture."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.finish_edits import (
    add_stroke,
    edit_layer,
    edit_mask,
    move_layer,
    present_faces,
    remove_layer,
    same_face,
    set_initial_mask,
)
from wamplex.app.tray.tray import Tray
from wamplex.app.workers.rendering.masks import FacesRequest, MaskRequest, MaskWorker, ToneRequest
from wamplex.core.finish.sharpen_stage import suggested_radius_mm
from wamplex.core.finish.strokes import Stroke
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import (
    BeginningKind,
    FaceTreatment,
    Finish,
    Grain,
    InitialMask,
    Layer,
    Mask,
    Sharpen,
    Tone,
    TreatedFace,
)
from wamplex.core.model.trial_spec import TrialSpec

_WORDS = {"feather_px": "feather", "inverted": "inverting", "on": "switching", "strokes": "strokes"}
# A slider that is dragged is one decision.
_FLOWING = ("strength", "feather_px")


class FinishDecisions(QObject):
    """Changes the Finish of the selected picture.

    Attributes
    ----------
    chosen : number of the layer that is worked on
    """

    announced = Signal(str)

    def __init__(self, tray: Tray, masks: MaskWorker) -> None:
        super().__init__()
        self._tray, self._masks = tray, masks
        self.chosen: int | None = None
        masks.ready.connect(self._take_mask)
        masks.matched.connect(self._take_tone)
        masks.faces_detected.connect(self._take_faces)
        masks.failed.connect(self.announced)

    @property
    def entry(self) -> TrayEntry | None:
        """The selected picture, where it can be used."""
        entry = self._tray.current
        return entry if entry is not None and entry.usable else None

    @property
    def mask(self) -> Mask | None:
        """The mask of the layer that is worked on."""
        entry = self.entry
        if entry is None or self.chosen is None or self.chosen >= len(entry.finish.layers):
            return None
        return entry.finish.layers[self.chosen].mask

    def choose_among(self, count: int) -> None:
        """There are so many layers now: one of them is worked on, where there is any."""
        if self.chosen is None or self.chosen >= count:
            self.chosen = count - 1 if count else None

    # Layers and their masks.

    def add_layer(self, source_trial: TrialSpec | None) -> None:
        """Add a layer of a trial or the source; its mask starts empty."""
        entry = self.entry
        if entry is None:
            return
        layers = (
            *entry.finish.layers,
            Layer(source_trial=source_trial, mask=Mask(initial_mask=InitialMask(kind="nowhere"))),
        )
        self.chosen = len(layers) - 1
        self._decide(entry.finish.replace(layers=layers), "another layer")
        self.announced.emit("Paint the mask of the layer, or choose a starting mask")

    def change_layer(self, name: str, value: object) -> None:
        """Another value of the chosen layer."""
        text = f"{_WORDS.get(name, name)} of a layer"
        self._edit(lambda f, n: edit_layer(f, n, **{name: value}), text, flows=name in _FLOWING)

    def change_mask(self, name: str, value: object) -> None:
        """Another value of the chosen layer's mask."""
        text = f"{_WORDS.get(name, name)} of a mask"
        self._edit(lambda f, n: edit_mask(f, n, **{name: value}), text, flows=name in _FLOWING)

    def do_layer(self, action: str) -> None:
        """Move the chosen layer up or down, copy it, remove it, or forget what was painted on it."""
        entry, number = self.entry, self.chosen
        if entry is None or number is None:
            return
        finish = entry.finish
        if action == "remove":
            self._decide(remove_layer(finish, number), "remove a layer")
        elif action == "twice":
            self.chosen = number + 1
            layers = (*finish.layers[: number + 1], *finish.layers[number:])
            self._decide(finish.replace(layers=layers), "duplicate a layer")
        elif action == "forget-strokes":
            self.change_mask("strokes", None)
        else:
            self.chosen = number + (1 if action == "up" else -1)
            self._decide(move_layer(finish, number, self.chosen), "order of the layers")

    def paint(self, stroke: Stroke) -> None:
        """A stroke on the chosen layer's mask."""
        self._edit(lambda f, n: add_stroke(f, n, stroke), "a stroke")

    def begin_mask(
        self,
        kind: BeginningKind,
        *,
        place: tuple[float, float] | None = None,
        path: Path | None = None,
        **values: object,
    ) -> None:
        """Have the chosen layer's mask begin elsewhere, at once or when its grey picture is found.

        Parameters
        ----------
        place : of the source whose colour is picked
        path : of a grey picture
        """
        entry = self.entry
        if entry is None or self.chosen is None:
            return
        if kind in ("everywhere", "nowhere"):
            self._edit(lambda f, n: set_initial_mask(f, n, InitialMask(kind=kind)), "starting mask")
            return
        # Its picture is still to be found: not yet a beginning that a recipe may hold.
        wish = InitialMask.model_construct(**{**dict(InitialMask()), "kind": kind, **values})
        areas = None if entry.condition is None else entry.condition.areas
        faces = present_faces(entry).ellipses
        request = MaskRequest(entry.number, self.chosen, entry.source, wish, areas, faces, place, path)
        self._masks.request([request])
        self.announced.emit("Finding the mask")

    def _take_mask(self, request: MaskRequest, data: bytes, colour: tuple[float, float, float] | None) -> None:
        entry = self._tray.entry(request.entry)
        gone = not entry.usable or entry.source != request.source
        if gone or request.layer >= len(entry.finish.layers):
            return
        initial_mask = {**dict(request.beginning), "picture": process_assets().put(data), "colour": colour}
        initial = InitialMask.model_validate(initial_mask)
        finish = set_initial_mask(entry.finish, request.layer, initial)
        flows = initial.kind in ("tones", "colours")
        self._tray.set_finish(entry.number, finish, "starting mask", flows=flows)
        self.announced.emit("The mask is ready")

    # Faces.

    def change_faces(self, text: str, *, flows: bool = False, **changes: object) -> None:
        """Another value of what is done to faces; those that were found become decided on."""
        entry = self.entry
        if entry is not None:
            faces: FaceTreatment = present_faces(entry).replace(**changes)
            self._decide(entry.finish.replace(faces=faces), text, flows=flows)

    def tick_face(self, number: int, on: bool) -> None:
        """Treat a face apart, or not."""
        entry = self.entry
        if entry is not None:
            ellipses = list(present_faces(entry).ellipses)
            ellipses[number] = ellipses[number].replace(on=on)
            self.change_faces("a face", ellipses=tuple(ellipses))

    def set_face(self, number: int, source_trial: TrialSpec | None, strength: float | None) -> None:
        """Make a face with a trial or at a strength of its own; None for what holds for all."""
        entry = self.entry
        if entry is not None:
            ellipses = list(present_faces(entry).ellipses)
            ellipses[number] = ellipses[number].replace(source_trial=source_trial, strength=strength, on=True)
            self.change_faces("a face", ellipses=tuple(ellipses))

    def remove_face(self, number: int) -> None:
        """Remove a face that is none."""
        entry = self.entry
        if entry is not None:
            ellipses = present_faces(entry).ellipses
            self.change_faces("remove a face", ellipses=(*ellipses[:number], *ellipses[number + 1 :]))

    def look_closer_for_faces(self) -> None:
        """Search the picture once more, for tilted heads; what is found is offered, not taken."""
        entry = self.entry
        if entry is not None:
            self._masks.request([FacesRequest(entry.number, entry.source)])
            self.announced.emit("Looking for more faces")

    def _take_faces(self, request: FacesRequest, detected: tuple[TreatedFace, ...]) -> None:
        entry = self._tray.entry(request.entry)
        if not entry.usable or entry.source != request.source:
            return
        faces = present_faces(entry)
        fresh = tuple(f.replace(on=False) for f in detected if not any(same_face(f, o, entry) for o in faces.ellipses))
        if fresh:
            more = faces.replace(ellipses=(*faces.ellipses, *fresh))
            self._tray.set_finish(entry.number, entry.finish.replace(faces=more), "more faces")
        self.announced.emit(f"{len(fresh)} more found" if fresh else "No more faces were found")

    def add_face(self, x: float, y: float, width: float, height: float) -> None:
        """A face that was missed: an oval in source pixels."""
        entry = self.entry
        if entry is not None and entry.header is not None:
            face = TreatedFace(x=x / entry.header.width, y=y / entry.header.height, width=width, height=height)
            self.change_faces("another face", ellipses=(*present_faces(entry).ellipses, face))

    # Surface.

    def change_sharpen(self, name: str, value: float) -> None:
        """Another value of sharpening; an amount of 0 takes it off."""
        entry = self.entry
        if entry is None:
            return
        radius, _ = suggested_radius_mm(entry.decisions.density_ppi, entry.viewing_distance_mm)
        before = entry.finish.sharpen or Sharpen(amount=0, radius_mm=radius)
        after = before.replace(**{name: _limit_length(name, value)})
        sharpen = after if after.amount > 0 else None
        self._decide(entry.finish.replace(sharpen=sharpen), "sharpening", flows=True)

    def change_grain(self, name: str, value: float) -> None:
        """Another value of grain; an amount of 0 takes it off."""
        entry = self.entry
        if entry is None:
            return
        after = (entry.finish.grain or Grain(amount=0)).replace(**{name: _limit_length(name, value)})
        self._decide(entry.finish.replace(grain=after if after.amount > 0 else None), "grain", flows=True)

    def set_where(self, part: str, which: str) -> None:
        """Treat the surface everywhere, or through the mask of the chosen layer as it is now.

        Parameters
        ----------
        part : sharpen, grain or tone
        which : everywhere, layer (where it shows) or not-layer
        """
        entry, mask = self.entry, self.mask
        value = None if entry is None else getattr(entry.finish, part)
        if entry is None or value is None:
            return
        if which == "everywhere" or mask is None:
            mask = Mask()
        elif which == "not-layer":
            mask = mask.replace(inverted=not mask.inverted)
        self._decide(entry.finish.replace(**{part: value.replace(mask=mask)}), f"where to {part}")

    def take_tone_from(self, reference: Path, colour: bool) -> None:
        """Find the curve and matrix that give the picture the light, and colour, of another."""
        entry = self.entry
        if entry is not None:
            self._masks.request([ToneRequest(entry.number, entry.source, reference, colour)])

    def _take_tone(self, request: ToneRequest, tone: Tone) -> None:
        entry = self._tray.entry(request.entry)
        if entry.usable and entry.source == request.source:
            self._tray.set_finish(entry.number, entry.finish.replace(tone=tone), "tone")

    def set_tone_strength(self, strength: float) -> None:
        """How much of the reference's tone is taken."""
        entry = self.entry
        if entry is not None and entry.finish.tone is not None:
            tone = entry.finish.tone.replace(strength=strength)
            self._decide(entry.finish.replace(tone=tone), "strength of the tone", flows=True)

    def drop_tone(self) -> None:
        """The picture's own tone."""
        entry = self.entry
        if entry is not None:
            self._decide(entry.finish.replace(tone=None), "tone")

    def _edit(self, change: Callable[[Finish, int], Finish], text: str, *, flows: bool = False) -> None:
        entry = self.entry
        if entry is not None and self.chosen is not None:
            self._decide(change(entry.finish, self.chosen), text, flows=flows)

    def _decide(self, finish: Finish, text: str, *, flows: bool = False) -> None:
        entry = self.entry
        if entry is not None:
            self._tray.set_finish(entry.number, finish, text, flows=flows)


def _limit_length(name: str, value: float) -> float:
    """A value of the surface; lengths on paper are more than nothing."""
    return max(value, 0.01) if name.endswith("_mm") else value
