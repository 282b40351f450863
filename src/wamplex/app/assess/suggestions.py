"""Applies the ticked suggestions of the condition sheet."""

from __future__ import annotations

from collections.abc import Sequence

from wamplex.app.tray.entry import TrayEntry
from wamplex.app.tray.finish_edits import present_faces
from wamplex.app.tray.tray import Tray
from wamplex.app.tray.trials import Trial
from wamplex.core.analysis.content.spots import transform_spots
from wamplex.core.analysis.report.finding import Act, Suggestion
from wamplex.core.geometry.framing import Crop, Framing
from wamplex.core.geometry.sheet import sheet_with_factor
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.trial.registry import find_upscaler

_HELD_BACK = 50.0  # percent of sharpening and grain
_TOLD: dict[Act, str] = {
    "noise": "noise",
    "compression": "compression",
    "blur": "sharpness",
    "motion_blur_px": "movement",
}


def use_suggestions(tray: Tray, entry: TrayEntry, ticked: Sequence[Suggestion]) -> str:
    """Do what is ticked; says in one sentence what was done.

    Raises
    ------
    SizeError : when the picture cannot be framed so
    """
    by_act = {suggestion.act: suggestion for suggestion in ticked}
    done = []
    if "crop" in by_act or "shrink" in by_act:
        done.append(_frame(tray, entry, by_act.get("crop"), by_act.get("shrink")))
    factor = by_act.get("factor")
    if factor is not None and factor.amount is not None and entry.size is not None:
        size, sheet = entry.size, entry.sheet
        chosen = size.with_factor(factor.amount) if sheet is None else sheet_with_factor(size, sheet, factor.amount)
        tray.set_size(entry.number, chosen)
        done.append(f"{factor.amount:g}× is the factor")
    cleanup = by_act.get("compression") or by_act.get("noise")
    if cleanup is not None or "blur" in by_act or "motion_blur_px" in by_act:
        key = cleanup.upscaler if cleanup is not None else None
        done.append(_try_with_values(tray, entry, key or entry.suggested_upscaler, by_act))
    upscaler = by_act.get("upscaler")
    if upscaler is not None and upscaler.upscaler is not None:
        done.append(_try(tray, entry, upscaler.upscaler))
    if "spot" in by_act:
        done.append(_watch_eyes(tray, entry))
    if "faces" in by_act:
        done.append(_treat_faces(tray, entry, by_act["faces"]))
    return "; ".join(text for text in done if text)


def _frame(tray: Tray, entry: TrayEntry, crop: Suggestion | None, shrink: Suggestion | None) -> str:
    framing, text = entry.framing, []
    if crop is not None and crop.crop is not None and framing != Framing():
        text.append("your crop is kept")
    elif crop is not None and crop.crop is not None:
        inside = crop.crop
        new_crop = Crop(x=inside.x, y=inside.y, width=inside.width, height=inside.height)
        framing = framing.replace(crop=new_crop)
        text.append(f"cropped to {inside.width} × {inside.height} px")
    if shrink is not None and shrink.amount is not None:
        framing = framing.replace(shrink_first=shrink.amount)
        text.append(f"shrunk {shrink.amount:.2g}× first")
    tray.set_framing(entry.number, framing)
    return ", ".join(text)


def _find_or_add(tray: Tray, entry: TrayEntry, key: str) -> Trial | None:
    """A trial of this upscaler that is in the running, added if need be; None where no more fit."""
    for trial in entry.trials.remaining:
        if trial.upscaler_key == key:
            return trial
    trials = entry.trials
    if not trials.can_add:
        return None
    added = trials.add(key)
    tray.set_trials(entry.number, added.with_reason(added.active, "suggested by the condition sheet"))
    return entry.trials.find(entry.trials.active)


def _try(tray: Tray, entry: TrayEntry, key: str) -> str:
    name, trial = find_upscaler(key).name, _find_or_add(tray, entry, key)
    if trial is None:
        return f"no room for {name}: strike a trial first"
    return f"{name} is trial {trial.letter}"


def _try_with_values(tray: Tray, entry: TrayEntry, key: str, by_act: dict[Act, Suggestion]) -> str:
    """An upscaler with the measured values that are ticked; what is not ticked is left alone."""
    text = _try(tray, entry, key)
    trial = next((t for t in entry.trials.remaining if t.upscaler_key == key), None)
    if trial is None:
        return text
    suggested = entry.suggested_values(key)
    values = suggested.replace(**_left_alone(by_act))
    changed = entry.trials.set_values(trial.letter, None if values == suggested else values)
    tray.set_trials(entry.number, changed)
    value_texts = [f"{name} {getattr(values, field):.0f}" for field, name in _TOLD.items() if field in by_act]
    return ", ".join([text, *value_texts])


def _left_alone(by_act: dict[Act, Suggestion]) -> dict[str, float]:
    """The measured values that were not ticked, as zeros."""
    return {name: 0.0 for name in _TOLD if name not in by_act}


def _treat_faces(tray: Tray, entry: TrayEntry, suggestion: Suggestion) -> str:
    """Faces that were found become decided on; an own choice among them stays."""
    key = suggestion.upscaler
    if entry.finish.faces is not None or key is None:
        return "your settings for faces are kept"
    faces = present_faces(entry)
    ellipses = tuple(face.replace(on=True) for face in faces.ellipses)
    source_trial = TrialSpec(upscaler=key, values=entry.suggested_values(key))
    treatment = faces.replace(ellipses=ellipses, source_trial=source_trial, attenuation=_HELD_BACK)
    tray.set_finish(entry.number, entry.finish.replace(faces=treatment), "trial for faces")
    return f"faces are made with {find_upscaler(key).name}: see Finish"


def _watch_eyes(tray: Tray, entry: TrayEntry) -> str:
    condition = entry.condition
    if condition is None or not condition.faces or any(spot.kind == "eye" for spot in entry.spots):
        return "the eye is already a spot" if condition is not None and condition.faces else ""
    eyes = tuple(spot for spot in condition.spots if spot.kind == "eye")
    if not eyes:
        return "the places to look at are not found yet"
    transformed = transform_spots(eyes, Framing(), entry.framing, condition.width, condition.height)
    tray.set_spots(entry.number, (*transformed, *entry.spots))
    return "the eye is now a spot" if transformed else "the face is outside the crop"
