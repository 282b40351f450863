"""Edits of a Finish; each returns a new value."""

from __future__ import annotations

import math
from dataclasses import replace

from wamplex.app.tray.entry import TrayEntry
from wamplex.core.finish.initial_masks import face_ellipses
from wamplex.core.finish.strokes import Stroke, decode_points, encode_points
from wamplex.core.model.assets import process_assets
from wamplex.core.model.finish_values import FaceTreatment, Finish, InitialMask, TreatedFace


def edit_layer(finish: Finish, number: int, **changes: object) -> Finish:
    """Another value of a layer."""
    layers = list(finish.layers)
    layers[number] = layers[number].replace(**changes)
    return finish.replace(layers=tuple(layers))


def edit_mask(finish: Finish, number: int, **changes: object) -> Finish:
    """Another value of a layer's mask."""
    return edit_layer(finish, number, mask=finish.layers[number].mask.replace(**changes))


def set_initial_mask(finish: Finish, number: int, initial_mask: InitialMask) -> Finish:
    """A layer's mask that begins elsewhere; what was painted stays."""
    return edit_mask(finish, number, initial_mask=initial_mask)


def add_stroke(finish: Finish, number: int, stroke: Stroke) -> Finish:
    """One stroke more on a layer's mask; on an inverted mask, painting in still lets the layer show.

    Strokes lie below the inverting, so what adds there takes away here.
    """
    mask = finish.layers[number].mask
    before = () if mask.strokes is None else decode_points(process_assets().get(mask.strokes))
    drawn = replace(stroke, adds=stroke.adds != mask.inverted)
    return edit_mask(finish, number, strokes=process_assets().put(encode_points((*before, drawn))))


def remove_layer(finish: Finish, number: int) -> Finish:
    """A layer less."""
    return finish.replace(layers=(*finish.layers[:number], *finish.layers[number + 1 :]))


def move_layer(finish: Finish, number: int, to: int) -> Finish:
    """Layers in another order."""
    layers = list(finish.layers)
    layers.insert(to, layers.pop(number))
    return finish.replace(layers=tuple(layers))


def present_faces(entry: TrayEntry) -> FaceTreatment:
    """The faces that were decided on; else those that were found, of which none is treated."""
    if entry.finish.faces is not None:
        return entry.finish.faces
    if entry.condition is None or entry.header is None:
        return FaceTreatment()
    faces = face_ellipses(entry.condition.faces, entry.header.width, entry.header.height)
    return FaceTreatment(ellipses=tuple(face.replace(on=False) for face in faces))


def same_face(one: TreatedFace, other: TreatedFace, entry: TrayEntry) -> bool:
    """Whether two ovals are about the same head."""
    assert entry.header is not None
    across = (one.x - other.x) * entry.header.width
    down = (one.y - other.y) * entry.header.height
    return math.hypot(across, down) < 0.5 * max(one.width, other.width)
