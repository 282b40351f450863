"""Values that the command line prints as JSON."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from wamplex.core.analysis.degradation.degradation_estimator import DegradationEstimate
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.report.finding import Finding
from wamplex.core.analysis.suggestion.alternatives import Alternative
from wamplex.core.analysis.suggestion.expected_gains import ExpectedGain
from wamplex.core.analysis.suggestion.suggestion import suggest
from wamplex.core.analysis.suggestion.suggestions import CHOSEN_VALUES, Suggestions
from wamplex.core.colour.icc import profile_name
from wamplex.core.deliver.deliver import Delivered
from wamplex.core.guests.guest_use import guest_provenance_text
from wamplex.core.intake.formats import RAW
from wamplex.core.intake.probe import Probe
from wamplex.core.model.recipe import Recipe
from wamplex.core.provenance.origin import recipe_digest
from wamplex.core.trial.registry import find_upscaler
from wamplex.core.upscale.upscalers.interface import Upscaler


def probe_values(header: Probe) -> dict[str, Any]:
    """JSON values of a picture file."""
    return {
        "path": str(header.path),
        "kind": header.kind,
        "width": header.width,
        "height": header.height,
        "megapixels": round(header.width * header.height / 1e6, 3),
        "depth": header.depth,
        "colour": header.colour,
        "alpha": header.alpha,
        "density_ppi": header.density_ppi,
        "profile": "the camera's own colours" if header.kind == RAW else profile_name(header.profile),
        "pages": header.pages,
        "bytes": header.file_bytes,
    }


def upscaler_values(upscaler: Upscaler) -> dict[str, Any]:
    """JSON values of an upscaler."""
    return {"key": upscaler.key, "name": upscaler.name, "kind": upscaler.kind, "purpose": upscaler.purpose}


def delivered_values(source: str, done: Delivered) -> dict[str, Any]:
    """JSON values of a written file."""
    check = done.check
    return {
        "source": source,
        "path": str(done.path),
        "pages": [str(page) for page in done.pages],
        "width": check.width,
        "height": check.height,
        "depth": check.depth,
        "density_ppi": check.density_ppi,
        "profile": check.profile,
        "profile_kept": check.profile_preserved,
        "bytes": check.file_bytes,
        "pixels_equal": check.pixels_equal,
        "seconds": round(done.seconds, 2),
    }


def lineage_values(source: str, recipe: Recipe, done: Delivered) -> dict[str, Any]:
    """JSON values of a written file and its recipe."""
    heeded = find_upscaler(recipe.upscaler).values
    used = {k: v for k, v in recipe.values.model_dump(mode="json").items() if k in heeded}
    about = {"upscaler": recipe.upscaler, "recipe_digest": recipe_digest(recipe), "values": used}
    elsewhere = guest_provenance_text(recipe)
    if elsewhere:
        about["made_elsewhere"] = elsewhere
    return {**delivered_values(source, done), **about}


def _read_values(read: DegradationEstimate) -> dict[str, Any]:
    """JSON values of the network's measurements with their uncertainty."""
    names = ("blur", "sharpening", "amount", "noise", "colour_noise")
    return {
        name: {"value": round(getattr(read, name).value, 3), "doubt": round(getattr(read, name).uncertainty, 3)}
        for name in names
    }


def suggestion_values(suggestions: Suggestions) -> dict[str, Any]:
    """JSON values of what is suggested, and of what each way to enlarge is likely to gain over bicubic, in dB."""
    heeded = find_upscaler(suggestions.upscaler).values
    values = suggestions.values_for(suggestions.upscaler, heeded)
    gain = suggestions.expected_gain(suggestions.upscaler, values)
    return {
        "upscaler": suggestions.upscaler,
        "reason": suggestions.reason,
        "values": values.model_dump(mode="json", exclude_defaults=True, exclude={"protected"}),
        "shrink_first": suggestions.shrink_first,
        "expected_gain_db": None if gain is None else _gain_values(gain),
        "judged": [
            {"upscaler": way.upscaler, "values": _chosen_values(way), "expected_gain_db": _gain_values(gain)}
            for way, gain in suggestions.judged
        ],
    }


def _chosen_values(way: Alternative) -> dict[str, float]:
    return {name: getattr(way.values, name) for name in CHOSEN_VALUES if name in find_upscaler(way.upscaler).values}


def _gain_values(gain: ExpectedGain) -> dict[str, float]:
    return {"low": round(gain.low_db, 2), "likely": round(gain.likely_db, 2), "high": round(gain.high_db, 2)}


def condition_values(condition: Condition, rows: tuple[Finding, ...]) -> dict[str, Any]:
    """JSON values of a condition, its sheet, and what it suggests."""
    soft, enlarged, compression = condition.blur, condition.enlarged, condition.compression
    return {
        "width": condition.width,
        "height": condition.height,
        "compression": {"quality": compression.quality, "saved_before_at": compression.earlier},
        "noise": {
            "levels": round(condition.noise.levels, 2),
            "luma": round(condition.noise.luma, 2),
            "colour": round(condition.noise.colour, 2),
        },
        "blur": None if soft is None else {"blur_px": round(soft.blur_px, 2), "edge_px": round(soft.edge_px, 2)},
        "read": None if condition.read is None else _read_values(condition.read),
        "movement": None
        if condition.movement is None
        else {"px": round(condition.movement.px, 1), "deg": round(condition.movement.deg)},
        "enlarged_before": None if enlarged is None else round(enlarged.factor, 2),
        "cut_off": {"white": round(condition.clipping.white, 4), "black": round(condition.clipping.black, 4)},
        "medium": condition.content_type.kind,
        "palette": None if condition.palette is None else asdict(condition.palette),
        "faces": [
            {key: round(getattr(face, key), 1) for key in ("x", "y", "width", "height")}
            | {"eyes": [[round(n, 1) for n in eye] for eye in face.eyes]}
            for face in condition.faces
        ],
        "subject_share": round(condition.areas.subject_fraction, 3) if condition.areas else 0.0,
        "sheet": [
            {
                "title": row.title,
                "value": row.value,
                "reason": row.reason,
                "suggestion": row.suggestion.text if row.suggestion else None,
            }
            for row in rows
        ],
        "suggested": suggestion_values(suggest(condition)),
    }
