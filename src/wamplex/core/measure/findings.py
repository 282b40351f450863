"""The condition sheet: each measurement in words, with its reason and what it suggests."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from wamplex.core.geometry.size import MM_PER_INCH
from wamplex.core.measure.condition import Condition, Measured
from wamplex.core.window import Window

Act = Literal["upscaler", "noise", "blocks", "spot", "factor", "shrink", "crop"]
RowKey = Measured | Literal["size"]

# Less noise than this is what rounding and fine texture leave in clean pictures.
LEAST_NOISE_LEVELS = 2.2
# From this quality on, compression leaves nothing to see.
FINE_QUALITY = 96
_SOFT_PX, _VERY_SOFT_PX = 0.9, 1.8
_LEAST_CLIPPED = 0.005
_LEAST_ENLARGED = 1.3
_SMALL_FACE_PX = 80
_USUAL_FACTORS = (2.0, 3.0, 4.0, 6.0)
# A4, the long side: a first guess at how large the print is to be.
_USUAL_PRINT_MM = 297.0


@dataclass(frozen=True)
class Suggestion:
    """Something that can be ticked.

    Attributes
    ----------
    act : what is done
    words : the same for the user
    upscaler : key of the upscaler it speaks of
    amount : noise or compression value, factor, or factor to shrink by
    crop : what is left of the picture, in its pixels
    """

    act: Act
    words: str
    upscaler: str | None = None
    amount: float | None = None
    crop: Window | None = None


@dataclass(frozen=True)
class Finding:
    """One row of the condition sheet."""

    key: RowKey
    title: str
    value: str
    reason: str
    suggestion: Suggestion | None = None


def findings(
    condition: Condition, *, density_ppi: float = 300.0, print_mm: float = _USUAL_PRINT_MM
) -> tuple[Finding, ...]:
    """A row for each measurement that there is, in the order of the sheet.

    Parameters
    ----------
    density_ppi : of the print
    print_mm : long side of the print that is wanted
    """
    makers = {
        "compression": _compression,
        "noise": _noise,
        "softness": _softness,
        "enlarged": _enlarged,
        "medium": _medium,
        "faces": _faces,
        "subject": _subject,
        "clipping": _clipping,
        "borders": _borders,
    }
    rows = [make(condition) for what, make in makers.items() if what in condition.measured]
    return (*(row for row in rows if row is not None), _size(condition, density_ppi, print_mm))


def _compression(condition: Condition) -> Finding:
    found = condition.compression
    reason = found.reason[0].upper() + found.reason[1:] + "."
    if found.quality is None:
        return Finding("compression", "Compression", "none seen", reason)
    if found.earlier is not None:
        reason += f" Saved before at about {found.earlier}, whose marks are still there."
    worst = found.worst or found.quality
    value = f"JPEG, {'quality' if found.in_file else 'about'} {found.quality}"
    if worst >= FINE_QUALITY:
        return Finding("compression", "Compression", value, f"{reason} Nothing to repair.")
    tick = Suggestion("blocks", f"Mender, compression {100 - worst}", "mender", float(100 - worst))
    return Finding("compression", "Compression", value, reason, tick)


def _noise(condition: Condition) -> Finding:
    noise = condition.noise
    value = f"{noise.levels:.1f} levels"
    parts = f"In smooth places: {noise.luma:.1f} in lightness, {noise.colour:.1f} in colour."
    if noise.levels < LEAST_NOISE_LEVELS:
        return Finding("noise", "Noise", value, f"{parts} That is clean.")
    mostly = "mostly colour" if noise.colour > noise.luma else "mostly lightness"
    amount = min(round(2 * noise.levels), 100)
    words = f"Mender, noise {amount}"
    reason = f"{parts} Mender takes it out; nothing else then removes noise or sharpens."
    return Finding(
        "noise", "Noise", f"{value}, {mostly}", reason, Suggestion("noise", words, "mender", amount)
    )


def _softness(condition: Condition) -> Finding:
    found = condition.softness
    if found is None:
        return Finding("softness", "Softness", "not known", "Too few clear edges to measure.")
    value = f"edges {found.edge_px:.1f} px"
    if found.motion_deg is not None:
        reason = f"Blurred along {found.motion_deg:.0f}°: it moved. Enlarging makes that larger, not sharper."
        return Finding("softness", "Softness", f"{found.blur_px:.1f} px, moved", reason)
    if found.blur_px < _SOFT_PX:
        return Finding("softness", "Softness", value, "As sharp as its pixels allow.")
    how = "Soft" if found.blur_px < _VERY_SOFT_PX else "Very soft"
    reason = (
        f"{how}: blurred by {found.blur_px:.1f} px beyond a sharp picture. No upscaler knows what was there."
    )
    return Finding("softness", "Softness", value, reason)


def _enlarged(condition: Condition) -> Finding:
    found = condition.enlarged
    if found is None or found.factor < _LEAST_ENLARGED:
        return Finding("enlarged", "Earlier enlargement", "none seen", "Neighbouring pixels keep no rhythm.")
    how = "Pixels are repeated" if found.by_repeating else "Differences of neighbours repeat"
    reason = f"{how} every {found.factor:.2g} pixels. Shrunk first, the upscaler sees real detail again."
    tick = Suggestion("shrink", f"Shrink {found.factor:.2g}× first", amount=round(found.factor, 2))
    return Finding("enlarged", "Earlier enlargement", f"about {found.factor:.2g}×", reason, tick)


_MEDIUM_WORDS = {
    "photograph": ("photograph", "Many tones, few flat areas."),
    "drawing": ("drawing", "Six colours make up {six:.0f} % of it, {flat:.0f} % is flat."),
    "lettering": ("lettering", "Two tones in strokes all over."),
    "pixel art": ("pixel art", "{colours} colours, pixel by pixel."),
    "generated": ("made by a program", "Smooth areas have less noise than a camera leaves."),
}
_MEDIUM_UPSCALERS = {"drawing": "burin", "lettering": "burin", "pixel art": "nearest"}


def _medium(condition: Condition) -> Finding:
    found = condition.medium
    value, reason = _MEDIUM_WORDS[found.kind]
    reason = reason.format(six=100 * found.six_colours, flat=100 * found.flat_share, colours=found.colours)
    key = _MEDIUM_UPSCALERS.get(found.kind)
    tick = Suggestion("upscaler", f"Try {key.capitalize()}", key) if key else None
    return Finding("medium", "Medium", value, reason, tick)


def _faces(condition: Condition) -> Finding:
    count = len(condition.faces)
    if count == 0:
        return Finding("faces", "Faces", "none found", "Looked for faces from 16 pixels wide.")
    largest = condition.faces[0]
    small = "small, watch the eyes" if largest.width < _SMALL_FACE_PX else "watch the eyes"
    reason = f"The largest is {largest.width:.0f} px wide: {small}."
    return Finding("faces", "Faces", f"{count} found", reason, Suggestion("spot", "Spot on the eye"))


def _subject(condition: Condition) -> Finding:
    areas = condition.areas
    if areas is None or areas.subject is None:
        return Finding("subject", "Main subject", "not clear", "Nothing stands out from the rest.")
    value = f"{100 * areas.subject_share:.0f} % of the picture"
    reason = "Stands out in colour and sharpness" + (", with a face." if condition.faces else ".")
    return Finding("subject", "Main subject", value, reason)


def _clipping(condition: Condition) -> Finding:
    white, black = condition.clipping.white, condition.clipping.black
    if max(white, black) < _LEAST_CLIPPED:
        return Finding("clipping", "Cut-off tones", "hardly any", "Nothing large is pure white or black.")
    parts = [
        f"{100 * s:.1f} % {name}" for s, name in ((white, "white"), (black, "black")) if s >= _LEAST_CLIPPED
    ]
    reason = "Pure white or black: no upscaler finds detail there. It prints as bare paper or solid ink."
    return Finding("clipping", "Cut-off tones", ", ".join(parts), reason)


def _borders(condition: Condition) -> Finding | None:
    inside = condition.borders
    if inside is None:
        return None
    reason = "Plain all along the edge: not part of the picture, and no use enlarging it."
    tick = Suggestion("crop", f"Crop to {inside.width} × {inside.height} px", crop=inside)
    return Finding("borders", "Plain border", "found", reason, tick)


def _size(condition: Condition, density_ppi: float, print_mm: float) -> Finding:
    width, height = condition.width, condition.height
    value = f"{width * height / 1e6:.2f} MP"
    cm = " × ".join(f"{n / density_ppi * MM_PER_INCH / 10:.1f}" for n in (width, height))
    as_is = f"{cm} cm at {density_ppi:g} ppi."
    needed = print_mm / MM_PER_INCH * density_ppi / max(width, height)
    if needed <= 1.0:
        return Finding("size", "Size", value, f"{as_is} Large enough for {print_mm / 10:.0f} cm as it is.")
    factor = next((f for f in _USUAL_FACTORS if f >= needed), _USUAL_FACTORS[-1])
    reason = f"{as_is} A print {print_mm / 10:.0f} cm long takes {needed:.1f}×."
    return Finding("size", "Size", value, reason, Suggestion("factor", f"Enlarge {factor:g}×", amount=factor))
