"""Makes a recipe fit another picture."""

from __future__ import annotations

from typing import Literal

from wamplex.core.geometry.framing import Framing
from wamplex.core.geometry.layout import lay_on_sheet, orient_sheet
from wamplex.core.geometry.size import Size
from wamplex.core.guests.guest import PREFIX
from wamplex.core.intake.formats import RAW
from wamplex.core.intake.probe import Probe
from wamplex.core.model.finish_values import FaceTreatment, Finish, Layer, Mask
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import FRAMES_UPSCALERS, find_upscaler

Part = Literal["developing", "size", "trial", "finish", "delivery"]
PARTS: tuple[Part, ...] = ("developing", "size", "trial", "finish", "delivery")


def place_bound(mask: Mask) -> bool:
    """Whether a mask lies on what is in one picture, and so says nothing of another.

    Parameters
    ----------
    mask : a mask
    """
    return mask.initial_mask.picture is not None or mask.strokes is not None


def transferable_recipe(finish: Finish) -> tuple[Finish, tuple[str, ...]]:
    """The part of Finish that fits other pictures.

    The treatment of faces stays; their positions are detected in each picture.

    Parameters
    ----------
    finish : everything after the stamped trial

    Returns
    -------
    Finish without masks and positions of its own picture, and what was left out, in words.
    """
    left_out = []
    portable = [layer for layer in finish.layers if not _is_place_bound_layer(layer)]
    layers = tuple(_drop_places(layer) for layer in portable)
    for layer in finish.layers:
        if layer.source_trial is not None and is_guest(layer.source_trial):
            left_out.append("the layer of a guest, which belongs to its own picture")
        elif place_bound(layer.mask):
            left_out.append(f"the layer {_layer_text(layer)}, whose mask belongs to its own picture")
    changes: dict[str, object] = {"layers": layers}
    for name in ("tone", "sharpen", "grain"):
        part = getattr(finish, name)
        if part is not None and place_bound(part.mask):
            changes[name] = part.replace(mask=Mask())
            left_out.append(f"the mask of {_LABELS[name]}, which now applies everywhere")
    if finish.faces is not None:
        changes["faces"] = finish.faces.replace(ellipses=())
    return finish.replace(**changes), tuple(left_out)


def is_guest(spec: TrialSpec) -> bool:
    """Whether a trial is a file that shows one picture alone.

    Parameters
    ----------
    spec : a trial
    """
    return spec.upscaler.startswith(PREFIX)


def _is_place_bound_layer(layer: Layer) -> bool:
    return place_bound(layer.mask) or (layer.source_trial is not None and is_guest(layer.source_trial))


def without_positions(spec: TrialSpec) -> TrialSpec:
    """A trial without the protected places of its own picture.

    Parameters
    ----------
    spec : a trial

    Returns
    -------
    The trial.
    """
    return spec.replace(values=spec.values.replace(protected=()))


def _drop_places(layer: Layer) -> Layer:
    return layer if layer.source_trial is None else layer.replace(source_trial=without_positions(layer.source_trial))


_LABELS = {"tone": "tone", "sharpen": "sharpening", "grain": "grain"}


def _layer_text(layer: Layer) -> str:
    return "of the source" if layer.source_trial is None else f"of {find_upscaler(layer.source_trial.upscaler).name}"


def transfer_recipe(
    saved: Recipe, onto: Recipe, parts: frozenset[Part], header: Probe
) -> tuple[Recipe, tuple[str, ...]]:
    """The recipe of a picture with parts of another one's.

    Parameters
    ----------
    saved : where the parts are from
    onto : what is decided about the picture; its framing stays
    parts : which parts are taken over
    header : of the picture

    Returns
    -------
    The recipe, and a sentence on each thing that could not be carried over.

    Raises
    ------
    SizeError : when the size does not fit the picture
    """
    recipe, notes = onto, list[str]()
    if "developing" in parts and header.kind == RAW:
        recipe = recipe.replace(development=saved.development)
    if "size" in parts:
        recipe = fit_recipe_size(saved, recipe, header)
        notes += framing_notes(saved, onto)
    if "trial" in parts:
        reason = trial_obstacle(saved.base, header)
        if reason is not None:
            notes.append(f"{reason}, so the trial stays as it was")
        else:
            values = saved.values.replace(protected=onto.values.protected)
            recipe = recipe.replace(base=saved.base.replace(values=values))
    if "finish" in parts:
        finish, left_out = transferable_recipe(saved.finish)
        recipe = recipe.finished(_with_own_faces(finish, onto.finish))
        notes += [f"left out: {text}" for text in left_out]
    return recipe, tuple(notes)


def trial_obstacle(base: TrialSpec, header: Probe) -> str | None:
    """Why another picture's trial cannot be used for this picture; None where it can.

    Parameters
    ----------
    base : a trial
    header : the picture's header

    Returns
    -------
    The reason in words; None where nothing is in the way.
    """
    if is_guest(base):
        return "a guest belongs to its own picture"
    upscaler = find_upscaler(base.upscaler)
    if upscaler in FRAMES_UPSCALERS:
        return f"{upscaler.name} joins frames of the other picture's scene"
    if upscaler.sees_sensor and header.kind != RAW:
        return f"{upscaler.name} needs a raw file"
    return None


def framing_notes(saved: Recipe, onto: Recipe) -> list[str]:
    """Say that another picture's crop is left out, where it has one.

    Parameters
    ----------
    saved : recipe of another picture
    onto : what is decided about this picture

    Returns
    -------
    Sentences; none where nothing is left out.
    """
    framing = saved.framing
    if framing in (Framing(), onto.framing):
        return []
    return ["left out: turning, straightening and crop, which belong to the other picture"]


def fit_recipe_size(saved: Recipe, onto: Recipe, header: Probe) -> Recipe:
    """Fit the sheet of a recipe to a picture; without a sheet, take its factor.

    Parameters
    ----------
    saved : recipe of another picture
    onto : what is decided about this picture
    header : the picture's header

    Returns
    -------
    The recipe ``onto`` with this size.

    Raises
    ------
    SizeError : when the picture cannot be made that large or small
    """
    cropped = onto.framing.size(header.width, header.height)
    if saved.sheet is None:
        size = Size(*cropped, 1.0, saved.density_ppi).with_factor(saved.factor)
        return onto.replace(factor=size.factor, density_ppi=size.density_ppi, sheet=None)
    sheet = orient_sheet(saved.sheet, *cropped)
    placed = lay_on_sheet(onto.framing, sheet, saved.density_ppi, header.width, header.height)
    size = placed.size
    return onto.replace(framing=placed.framing, factor=size.factor, density_ppi=size.density_ppi, sheet=sheet)


def _with_own_faces(finish: Finish, own: Finish) -> Finish:
    """Faces as the recipe makes them, where the picture's own were found or placed."""
    if finish.faces is None:
        return finish
    ellipses = own.faces.ellipses if own.faces is not None else ()
    return finish.replace(faces=FaceTreatment(**{**dict(finish.faces), "ellipses": ellipses}))
