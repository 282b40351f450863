"""The condition sheet: each measurement in words, with its reason and what it suggests."""

from __future__ import annotations

from collections.abc import Callable

from wamplex.core.analysis.content.palette import palette_text
from wamplex.core.analysis.degradation.motion_blur import MotionBlur
from wamplex.core.analysis.report.condition import Condition, Measurement, is_dithered
from wamplex.core.analysis.report.finding import Finding, Suggestion
from wamplex.core.analysis.report.sensor_text import sensor_text
from wamplex.core.geometry.size import MM_PER_INCH
from wamplex.core.model.value_table import VALUES
from wamplex.core.upscale.stages.deconvolution import AMOUNT_PER_VALUE, PX_PER_VALUE

# Less noise than this is what rounding and fine texture leave in clean pictures.
LEAST_NOISE_LEVELS = 2.2
# From this quality on, compression leaves nothing to see.
FINE_QUALITY = 96
# Less than this is not told apart from a clean picture, and an error upwards etches rims. Behind compression
# more is mistaken for softness, and sharpening that is over-read carves blocks (docs: the reader's card).
LEAST_SOFTNESS_PX, LEAST_SHARPENING = 0.2, 0.25
_LEAST_COMPRESSED_PX, _LEAST_COMPRESSED_SHARPENING = 0.3, 0.2
# Outlines look sharpened. Of 30 drawings and pages in five conditions seven read so, with up to 0.54, without
# being so; those that were sharpened by 90 % read 0.68 and more.
_LEAST_DRAWN_SHARPENING = 0.63
_MOVED_QUALITY = 60  # of a JPEG, below which edges say nothing of a movement
_VERY_SOFT_PX = 1.2
# Further than this, a few degrees in the direction spoil more than is gained.
FAR_MOVED_PX = 6.5
# Of what may be wrong, so much is taken off: errors downwards cost little.
_CAREFUL, _CAREFUL_OF_COMPRESSED_SHARPENING = 0.5, 0.75
_LEAST_CLIPPED = 0.005
LEAST_ENLARGED = 1.3
_SMALL_FACE_PX = 80
_USUAL_FACTORS = (2.0, 3.0, 4.0, 6.0)
# A4, the long side: a first guess at how large the print is to be.
_USUAL_PRINT_MM = 297.0


def describe_condition(
    condition: Condition, *, density_ppi: float = 300.0, print_mm: float = _USUAL_PRINT_MM
) -> tuple[Finding, ...]:
    """Describe the condition: one row per measurement, in the order of the sheet.

    Parameters
    ----------
    condition : what was measured
    density_ppi : of the print
    print_mm : long side of the print that is wanted

    Returns
    -------
    Rows of the condition sheet.
    """
    makers: tuple[tuple[Measurement, Callable[[Condition], Finding | None]], ...] = (
        ("made by", _own_origin),
        ("sensor", _sensor),
        ("compression", _compression),
        ("noise", _noise),
        ("blur", _blur),
        ("enlarged", _enlarged),
        ("medium", _content_type),
        ("palette", _palette),
        ("faces", _faces),
        ("faces", _face_treatment),
        ("subject", _subject),
        ("clipping", _clipping),
        ("borders", _borders),
    )
    rows = [make(condition) for maker, make in makers if maker in condition.measured]
    last = (_transparency(condition), _size(condition, density_ppi, print_mm))
    return tuple(row for row in (*rows, *last) if row is not None)


def _own_origin(condition: Condition) -> Finding | None:
    origin = condition.own_origin
    if origin is None or origin.factor <= 1:
        return None
    reason = (
        f"Enlarged {origin.factor:.3g}× before, with {origin.upscaler.capitalize()}: its artifacts are enlarged too. "
        f"Enlarge {origin.source_name or 'its source'} in one step instead."
    )
    return Finding("made by", "Second pass", f"{origin.factor:.3g}× before", reason)


def _sensor(condition: Condition) -> Finding | None:
    exposure = condition.sensor
    if exposure is None:
        return None
    value, reason = sensor_text(exposure)
    tick = Suggestion("upscaler", "Try Tessera", "tessera") if exposure.mosaic else None
    return Finding("sensor", "Raw file", value, reason, tick)


def _compression(condition: Condition) -> Finding:
    compression = condition.compression
    reason = compression.reason[0].upper() + compression.reason[1:] + "."
    if compression.quality is None:
        return Finding("compression", "Compression", "none seen", reason)
    if compression.earlier is not None:
        reason += f" Before, it was saved at about {compression.earlier}; artifacts of that remain."
    worst = compression.worst or compression.quality
    name = {"jpeg": "JPEG", "webp": "WebP", "avif": "AVIF"}[compression.codec]
    value = f"{name}, {'quality' if compression.in_file else 'about'} {compression.quality}"
    if worst >= FINE_QUALITY:
        return Finding("compression", "Compression", value, f"{reason} Nothing to repair.")
    key = cleaner(condition)
    text = f"{key.capitalize()}, compression {compression.strength:.0f}"
    tick = Suggestion("compression", text, key, round(compression.strength, 1))
    return Finding("compression", "Compression", value, reason, tick)


def _noise(condition: Condition) -> Finding:
    noise = condition.noise
    value = f"{noise.levels:.1f} levels"
    parts = f"{noise.luma:.1f} in lightness, {noise.colour:.1f} in colour."
    if noise.levels < LEAST_NOISE_LEVELS:
        return Finding("noise", "Noise", value, f"{parts} That is clean.")
    mostly = "mostly colour" if noise.colour > noise.luma else "mostly lightness"
    amount = min(round(2 * noise.levels), 100)
    key = cleaner(condition)
    text = f"{key.capitalize()}, noise {amount}"
    reason = f"{parts} {key.capitalize()} removes it."
    return Finding("noise", "Noise", f"{value}, {mostly}", reason, Suggestion("noise", text, key, amount))


def suggested_blur(condition: Condition) -> tuple[float, float]:
    """Softness in px and amount of sharpening that are to be undone: rather too little than too much.

    0 for what is not told apart from a clean picture. Outlines of drawings and lettering gain by the whole of
    what is read, where a photograph's finest texture would be etched.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Blur to correct, in px, and over-sharpening to undo, as the amount of an unsharp mask; one of them is 0.
    """
    read = condition.read
    if read is None or is_dithered(condition):  # dots look like sharpening
        return 0.0, 0.0
    min_px, minimum, margin = LEAST_SOFTNESS_PX, LEAST_SHARPENING, _CAREFUL
    if is_compressed(condition):
        min_px, minimum = _LEAST_COMPRESSED_PX, _LEAST_COMPRESSED_SHARPENING
        margin = _CAREFUL_OF_COMPRESSED_SHARPENING
    if _is_drawn(condition):
        minimum, margin = _LEAST_DRAWN_SHARPENING, _CAREFUL
    blur = read.blur.value - _CAREFUL * read.blur.uncertainty
    sharpening = read.sharpening.value - margin * read.sharpening.uncertainty
    corrected = read.blur.value if _is_drawn(condition) else blur
    return (corrected if blur >= min_px else 0.0), (sharpening if sharpening >= minimum else 0.0)


def cleaner(condition: Condition) -> str:
    """Choose the upscaler that removes noise and compression for this content.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Its key.
    """
    return "burin" if _is_drawn(condition) else "mender"


def faithful(condition: Condition) -> str:
    """Choose the upscaler that invents least in a face.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Its key.
    """
    damaged = is_compressed(condition) or condition.noise.levels >= LEAST_NOISE_LEVELS
    return "mender" if damaged else "vellum"


def has_motion_blur(condition: Condition) -> MotionBlur | None:
    """The detected motion blur, where the detection can be trusted.

    The even strokes of drawings and lettering pass for one, and so may dots of a palette and what strong compression
    or an earlier enlargement makes of edges; undone where there is none, it leaves ghosts.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Length and direction; None without any.
    """
    worst = condition.compression.worst
    doubtful = worst is not None and worst < _MOVED_QUALITY
    movement = condition.movement
    # Longer is more than a value can undo, or than a picture of this size can show.
    longest = min(VALUES["motion_blur_px"].maximum, condition.width / 8, condition.height / 8)
    if movement is None or movement.px > longest:
        return None
    doubtful = doubtful or was_enlarged(condition) or _is_drawn(condition) or is_dithered(condition)
    return None if doubtful else movement


def was_enlarged(condition: Condition) -> bool:
    """Whether shrinking first does more than undoing the softness that enlarging left.

    Parameters
    ----------
    condition : what was measured
    """
    enlargement = condition.enlarged
    return enlargement is not None and (enlargement.by_loss or enlargement.factor >= LEAST_ENLARGED)


def is_compressed(condition: Condition) -> bool:
    """Whether compression has left marks to be seen.

    Parameters
    ----------
    condition : what was measured
    """
    worst = condition.compression.worst
    return worst is not None and worst < FINE_QUALITY


def _is_drawn(condition: Condition) -> bool:
    return condition.content_type.kind in ("drawing", "lettering")


def _blur(condition: Condition) -> Finding:
    motion = has_motion_blur(condition)
    if motion is not None:
        reason = f"Motion blur of about {motion.px:.1f} px along {motion.deg:.0f}°."
        if motion.px > FAR_MOVED_PX:
            reason += " Too long to correct automatically: set the values in Trial."
            return Finding("blur", "Sharpness", f"motion blur {motion.px:.1f} px", reason)
        tick = Suggestion("motion_blur_px", "Correct motion blur", amount=round(motion.px, 1))
        return Finding("blur", "Sharpness", f"motion blur {motion.px:.1f} px", reason, tick)
    if condition.read is None:
        return Finding("blur", "Sharpness", "not known", "Too small to tell.")
    if is_dithered(condition):
        return Finding("blur", "Sharpness", "not known", "Dots of the palette hide it.")
    blur_px, sharpening = suggested_blur(condition)
    edges = "" if condition.blur is None else f" Edges are {condition.blur.edge_px:.1f} px wide."
    if blur_px > 0:
        how = "Very soft" if blur_px >= _VERY_SOFT_PX else "Soft"
        reason = f"{how}: at least {blur_px:.2f} px of blur more than a sharp picture.{edges}"
        if was_enlarged(condition):
            reason = "Soft because it was enlarged before. Shrinking it first helps more than deblurring."
            return Finding("blur", "Sharpness", f"soft by {blur_px:.2f} px", reason)
        if condition.has_alpha:
            reason += " Soft edges of transparency may be intended, so nothing is corrected automatically."
            return Finding("blur", "Sharpness", f"soft by {blur_px:.2f} px", reason)
        value = min(blur_px / PX_PER_VALUE, 100)
        tick = Suggestion("blur", f"Correct blur {value:.0f}", amount=blur_px)
        return Finding("blur", "Sharpness", f"soft by {blur_px:.2f} px", reason, tick)
    if sharpening > 0 and not was_enlarged(condition):
        reason = f"Sharpened, as by an unsharp mask of {100 * sharpening:.0f} %. Upscalers would amplify the halos."
        tick = Suggestion("blur", f"Undo sharpening {sharpening / AMOUNT_PER_VALUE:.0f}", amount=-sharpening)
        return Finding("blur", "Sharpness", f"sharpened by {100 * sharpening:.0f} %", reason, tick)
    return Finding("blur", "Sharpness", "clean", f"As sharp as its pixels allow.{edges}")


def _enlarged(condition: Condition) -> Finding:
    enlargement = condition.enlarged
    if enlargement is None or not was_enlarged(condition):
        return Finding("enlarged", "Earlier enlargement", "none seen", "No smaller size would hold all of its detail.")
    times = (
        f"{enlargement.factor:.3g}" if enlargement.by_loss else f"{enlargement.factor:.2g}"
    )  # a rhythm is less exact
    how = f"Its fine structure repeats every {times} pixels"
    if enlargement.by_repeating:
        how = f"Every pixel is repeated {times} times"
    if enlargement.by_loss:
        how = f"Shrinking it {times}× loses almost nothing"
    reason = f"{how}. After shrinking, the upscaler works on real detail."
    tick = Suggestion("shrink", f"Shrink {times}× first", amount=round(enlargement.factor, 2))
    return Finding("enlarged", "Earlier enlargement", f"about {times}×", reason, tick)


_MEDIUM_WORDS = {
    "photograph": ("photograph", "Many tones, few flat areas."),
    "drawing": ("drawing", "Six colours make up {six:.0f} % of it, {flat:.0f} % is flat."),
    "lettering": ("lettering", "Strokes in two tones."),
    "pixel art": ("pixel art", "{colours} colours, pixel by pixel."),
    "generated": ("generated", "Smooth areas have less noise than a camera leaves."),
}
_MEDIUM_UPSCALERS = {"drawing": "burin", "lettering": "burin", "pixel art": "nearest"}


def _content_type(condition: Condition) -> Finding:
    content = condition.content_type
    value, reason = _MEDIUM_WORDS[content.kind]
    reason = reason.format(six=100 * content.six_colours, flat=100 * content.flat_fraction, colours=content.colours)
    if content.likelihood is not None and content.kind != "photograph":
        reason += f" Likelihood {100 * content.likelihood:.0f} %."
    if content.stated:
        reason = content.stated if content.kind == "generated" else f"{reason} {content.stated}"
    key = None if is_dithered(condition) else _MEDIUM_UPSCALERS.get(content.kind)
    tick = Suggestion("upscaler", f"Try {key.capitalize()}", key) if key else None
    return Finding("medium", "Medium", value, reason, tick)


def _palette(condition: Condition) -> Finding | None:
    if condition.palette is None:
        return None
    tick = Suggestion("upscaler", "Try Mender", "mender") if is_dithered(condition) else None
    return Finding("palette", "Palette", *palette_text(condition.palette), tick)


def _faces(condition: Condition) -> Finding:
    count = len(condition.faces)
    if count == 0:
        return Finding("faces", "Faces", "none found", "Two detectors found none. Faces below 16 px are often missed.")
    largest = condition.faces[0]
    small = "small, watch the eyes" if largest.width < _SMALL_FACE_PX else "watch the eyes"
    reason = f"The largest is {largest.width:.0f} px wide: {small}."
    unsure = sum(not face.sure for face in condition.faces)
    if unsure:
        reason += (
            f" Only one of the two detectors found {unsure} of them."
            if count > 1
            else " Only one of the two detectors found it."
        )
    return Finding("faces", "Faces", f"{count} found", reason, Suggestion("spot", "Spot on the eye"))


def _face_treatment(condition: Condition) -> Finding | None:
    """Suggest a trial for small faces; it is not ticked by default."""
    small = [face.width for face in condition.faces if face.selected and face.width < _SMALL_FACE_PX]
    if not small:
        return None
    across = f"{min(small):.0f} px" if len(small) == 1 else f"{min(small):.0f} to {max(small):.0f} px"
    value = "1 small face" if len(small) == 1 else f"{len(small)} small faces"
    reason = (
        f"{across} wide. Below {_SMALL_FACE_PX} px, upscalers invent part of eyes and mouths. A faithful trial "
        "for faces, with half the sharpening, avoids this."
    )
    key = faithful(condition)
    tick = Suggestion("faces", f"Treat faces with {key.capitalize()}", key, at_first=False)
    return Finding("small faces", "Small faces", value, reason, tick)


def _subject(condition: Condition) -> Finding:
    areas = condition.areas
    if areas is None or areas.subject is None:
        return Finding("subject", "Main subject", "not clear", "Nothing stands out from the rest.")
    value = f"{100 * areas.subject_fraction:.0f} % of the picture"
    reason = "Stands out in colour and sharpness" + (", with a face." if condition.faces else ".")
    return Finding("subject", "Main subject", value, reason)


def _clipping(condition: Condition) -> Finding:
    white, black = condition.clipping.white, condition.clipping.black
    if max(white, black) < _LEAST_CLIPPED:
        return Finding("clipping", "Clipped tones", "hardly any", "Nothing large is pure white or black.")
    parts = [f"{100 * s:.1f} % {name}" for s, name in ((white, "white"), (black, "black")) if s >= _LEAST_CLIPPED]
    reason = "Clipped to pure white or black: no upscaler can restore detail there."
    return Finding("clipping", "Clipped tones", ", ".join(parts), reason)


def _borders(condition: Condition) -> Finding | None:
    inside = condition.borders
    if inside is None:
        return None
    reason = "A plain border. It is not part of the picture and need not be enlarged."
    tick = Suggestion("crop", f"Crop to {inside.width} × {inside.height} px", crop=inside)
    return Finding("borders", "Plain border", "found", reason, tick)


def _transparency(condition: Condition) -> Finding | None:
    if not condition.on_black:
        return None
    reason = "Light on transparency: it is shown on black, and lies on black in formats without transparency."
    return Finding("transparency", "Transparency", "on black", reason)


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
