"""Computes initial masks and the tone of a reference, off the GUI thread."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal

from wamplex.app.workers.latest import LatestRequests
from wamplex.core.analysis.content.subject import SubjectAreas
from wamplex.core.analysis.faces.rotated_faces import find_turned_faces
from wamplex.core.base.errors import Cancelled, user_message
from wamplex.core.base.progress import Progress
from wamplex.core.colour.convert import to_srgb_on_ground
from wamplex.core.finish import initial_masks
from wamplex.core.finish.grey_mask import encode_grey
from wamplex.core.finish.tone_match import match_tone
from wamplex.core.intake.picture_cache import PictureCache
from wamplex.core.intake.read import read_picture
from wamplex.core.model.finish_values import InitialMask, TreatedFace
from wamplex.core.model.picture import Picture, Pixels
from wamplex.core.model.source import Source


@dataclass(frozen=True, eq=False)
class MaskRequest:
    """What a mask is to begin with.

    Attributes
    ----------
    entry, layer : number of the picture in the tray, and of the layer
    beginning : its kind and what it needs, still without a picture
    areas : subject and sharp areas as measured
    faces : ovals
    place : of the source that was picked, for colours
    path : for a mask from a file
    """

    entry: int
    layer: int
    source: Source
    beginning: InitialMask
    areas: SubjectAreas | None = None
    faces: tuple[TreatedFace, ...] = ()
    place: tuple[float, float] | None = None
    path: Path | None = None


@dataclass(frozen=True, eq=False)
class ToneRequest:
    """A picture that is to have the light, or the light and colour, of another."""

    entry: int
    source: Source
    reference: Path
    colour: bool


@dataclass(frozen=True, eq=False)
class FacesRequest:
    """A picture that is to be searched once more, for faces on tilted heads."""

    entry: int
    source: Source


MaskJob = MaskRequest | ToneRequest | FacesRequest


class MaskWorker(LatestRequests[MaskJob]):
    """Tells what it found; whoever asked decides what becomes of it."""

    ready = Signal(object, object, object)  # request, bytes of the grey picture, colour that was picked or None
    matched = Signal(object, object)  # request, Tone
    faces_detected = Signal(object, object)  # request, ovals
    failed = Signal(str)

    def __init__(self, store: PictureCache, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._store = store

    def make(self, request: MaskJob, done: int, total: int, progress: Progress) -> None:
        """Find one."""
        try:
            picture = self._store.get(request.source, progress)
            if isinstance(request, ToneRequest):
                reference = read_picture(request.reference, progress)
                text = request.reference.name
                self.matched.emit(request, match_tone(picture, reference, colour=request.colour, text=text))
                return
            if isinstance(request, FacesRequest):
                self.faces_detected.emit(request, _all_faces(picture, progress))
                return
            mask, colour = _initial_mask(picture, request)
            self.ready.emit(request, encode_grey(mask), colour)
        except Cancelled:
            return
        except Exception as error:
            self.failed.emit(user_message(error, "There is not enough memory for this mask."))


def _initial_mask(picture: Picture, request: MaskRequest) -> tuple[Pixels, tuple[float, float, float] | None]:
    initial = request.beginning
    if initial.kind == "tones":
        return initial_masks.mask_from_tones(picture, initial.low, initial.high, initial.soft), None
    if initial.kind == "colours":
        colour = initial.colour
        if request.place is not None:
            colour = initial_masks.pick_colour(picture, *request.place)
        assert colour is not None
        return initial_masks.mask_from_colour(picture, colour, initial.colour_tolerance), colour
    if initial.kind == "faces":
        return initial_masks.mask_from_faces(picture, request.faces), None
    if initial.kind == "file":
        assert request.path is not None
        return initial_masks.mask_from_file(request.path, picture), None
    assert request.areas is not None
    area = request.areas.sharp if initial.kind == "sharp" else request.areas.subject
    assert area is not None
    return initial_masks.mask_from_areas(picture, area), None


def _all_faces(picture: Picture, progress: Progress) -> tuple[TreatedFace, ...]:
    srgb = to_srgb_on_ground(picture.pixels, picture)
    colour = np.repeat(srgb[..., :1], 3, axis=2) if srgb.shape[2] < 3 else srgb
    pixels = np.rint(colour * 255).astype(np.uint8)
    return initial_masks.face_ellipses(find_turned_faces(pixels, progress), picture.width, picture.height)
