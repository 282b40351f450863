"""Changes of a Finish, each a new value."""

from __future__ import annotations

import math
from dataclasses import replace

from wamplex.app.tray.entry import Entry
from wamplex.core.finish.initial_masks import ovals
from wamplex.core.finish.strokes import Stroke, packed, unpacked
from wamplex.core.model.assets import own_assets
from wamplex.core.model.finish_values import Beginning, Face, Faces, Finish


def changed_layer(finish: Finish, number: int, **changes: object) -> Finish:
    """Another value of a layer."""
    layers = list(finish.layers)
    layers[number] = layers[number].having(**changes)
    return finish.having(layers=tuple(layers))


def changed_mask(finish: Finish, number: int, **changes: object) -> Finish:
    """Another value of a layer's mask."""
    return changed_layer(finish, number, mask=finish.layers[number].mask.having(**changes))


def with_begin(finish: Finish, number: int, begins: Beginning) -> Finish:
    """A layer's mask that begins elsewhere; what was painted stays."""
    return changed_mask(finish, number, begins=begins)


def with_stroke(finish: Finish, number: int, stroke: Stroke) -> Finish:
    """One stroke more on a layer's mask; on an inverted mask, painting in still lets the layer show.

    Strokes lie below the inverting, so what adds there takes away here.
    """
    mask = finish.layers[number].mask
    before = () if mask.strokes is None else unpacked(own_assets().get(mask.strokes))
    drawn = replace(stroke, adds=stroke.adds != mask.inverted)
    return changed_mask(finish, number, strokes=own_assets().put(packed((*before, drawn))))


def without_layer(finish: Finish, number: int) -> Finish:
    """A layer less."""
    return finish.having(layers=(*finish.layers[:number], *finish.layers[number + 1 :]))


def moved_layer(finish: Finish, number: int, to: int) -> Finish:
    """Layers in another order."""
    layers = list(finish.layers)
    layers.insert(to, layers.pop(number))
    return finish.having(layers=tuple(layers))


def present_faces(entry: Entry) -> Faces:
    """The faces that were decided on; else those that were found, of which none is treated."""
    if entry.finish.faces is not None:
        return entry.finish.faces
    if entry.condition is None or entry.found is None:
        return Faces()
    found = ovals(entry.condition.faces, entry.found.width, entry.found.height)
    return Faces(ovals=tuple(face.having(on=False) for face in found))


def same_face(one: Face, other: Face, entry: Entry) -> bool:
    """Whether two ovals are about the same head."""
    assert entry.found is not None
    across = (one.x - other.x) * entry.found.width
    down = (one.y - other.y) * entry.found.height
    return math.hypot(across, down) < 0.5 * max(one.width, other.width)
