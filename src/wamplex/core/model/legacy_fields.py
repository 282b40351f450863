"""Reads what earlier versions wrote: fields that have another name now."""

from __future__ import annotations

from typing import Any

# Old names of fields in recipes (up to version 2), projects (2), named recipes (1) and settings.
_NEW_NAMES = {
    "softness": "blur",
    "blocks": "compression",
    "moved_px": "motion_blur_px",
    "moved_deg": "motion_blur_deg",
    "invention": "texture_strength",
    "spared": "protected",
    "careful": "self_ensemble",
    "anchor_levels": "back_projection_levels",
    "begins": "initial_mask",
    "reach": "colour_tolerance",
    "ovals": "ellipses",
    "shows": "source_trial",
    "hold_back": "attenuation",
    "middle": "midtones",
    "beside": "relative_path",
    "seen_from_mm": "viewing_distance_mm",
    "tally": "blind_choices",
    "own_papers": "custom_papers",
}


def rename_fields(value: Any) -> Any:
    """JSON with the old names of fields replaced at every depth; keys of other things stay.

    Parameters
    ----------
    value : what ``json.loads`` returns

    Returns
    -------
    The same with new names, for values that were written before they had them.
    """
    if isinstance(value, dict):
        return {_NEW_NAMES.get(name, name): rename_fields(part) for name, part in value.items()}
    if isinstance(value, list):
        return [rename_fields(part) for part in value]
    return value
