"""What a picture's own measurements suggest for its enlargement by rule, with the reasons."""

from __future__ import annotations

from wamplex.core.analysis.report.condition import Condition, is_dithered
from wamplex.core.analysis.report.findings import (
    FAR_MOVED_PX,
    LEAST_NOISE_LEVELS,
    has_motion_blur,
    is_compressed,
    suggested_blur,
    was_enlarged,
)
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.model.protected_places import ProtectedPlaces
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.stages.deconvolution import AMOUNT_PER_VALUE, PX_PER_VALUE
from wamplex.core.upscale.upscalers.learned import VERY_SOFT

_RATHER_LESS = 0.9
_A = {"drawing": "a drawing", "lettering": "lettering"}
# Values from which on compression and noise are plain to see.
CLEARLY_COMPRESSED, CLEARLY_NOISY = 15.0, 7.0
# Measured on held-out pictures at 4x: edges are 1.17 (photographs), 0.99 (drawings) and 1.02 (lettering) times as wide
# as the truth's then; 1.40, 1.10 and 1.19 times without.
_CRISPNESS, _DRAWN_CRISPNESS = 50.0, 25.0
# What cleans dots of a palette: for up to so many colours noise and compression. Measured at 3x with Floyd and
# Steinberg's dots on three photographs. Two tones need all there is (+12 dB over bicubic); dots of more differ less.
_DOTS = ((2, 100.0, 100.0), (8, 20.0, 50.0), (16, 10.0, 50.0), (256, 10.0, 20.0))
_MOST_FACES, _AROUND_FACE = 64, 0.6


def suggest_by_rules(condition: Condition) -> Suggestions:
    """Derive suggestions from a measured condition by rules alone.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Upscaler and values, each with its reason.
    """
    reasons: dict[ValueName, str] = {}
    if condition.sensor is not None and condition.sensor.mosaic:
        whence = "the file states" if condition.sensor.stated else "was measured on the mosaic"
        reasons["sensor_noise"] = f"all that {whence}"
    noise, reasons["noise"] = _noise(condition)
    compression, reasons["compression"] = _blocks(condition)
    if is_dithered(condition):
        noise, compression, reason = _dots(condition)
        reasons["noise"] = reasons["compression"] = reason
    blur, reasons["blur"] = _blur(condition)
    motion_px, direction, reasons["motion_blur_px"] = _motion_blur(condition)
    crispness, reasons["crispness"] = _crispness(condition)
    texture_strength, reasons["texture_strength"] = _texture_strength(condition, noise, compression)
    values = Values(
        noise=noise,
        compression=compression,
        codec="jpeg" if condition.compression.codec == "jpeg" or is_dithered(condition) else "webp",
        blur=0.0 if motion_px > 0 else blur,
        motion_blur_px=motion_px,
        motion_blur_deg=direction,
        texture_strength=texture_strength,
        crispness=crispness,
        protected=protected_faces(condition),
    )
    upscaler, reason = _upscaler(condition, values, reasons)
    enlarged = condition.enlarged if was_enlarged(condition) else None
    return Suggestions(upscaler, reason, values, reasons, round(enlarged.factor, 2) if enlarged else 1.0)


def _noise(condition: Condition) -> tuple[float, str]:
    levels = condition.noise.levels
    if levels < LEAST_NOISE_LEVELS:
        return 0.0, f"{levels:.1f} levels measured, which is clean"
    return min(round(2 * levels, 1), 100.0), f"{levels:.1f} levels measured"


def _blocks(condition: Condition) -> tuple[float, str]:
    compression = condition.compression
    reason = compression.reason
    if compression.earlier is not None:
        reason += f", saved before at about {compression.earlier}"
    return (round(compression.strength, 1) if is_compressed(condition) else 0.0), reason


def _dots(condition: Condition) -> tuple[float, float, str]:
    """Noise and compression values against the dots of a palette."""
    assert condition.palette is not None
    colours = condition.palette.colours
    noise, compression = next((n, c) for most, n, c in _DOTS if colours <= most)
    return noise, compression, f"dots of {colours} colours stand for the tones between"


def _blur(condition: Condition) -> tuple[float, str]:
    if condition.read is None:
        return 0.0, "too small to tell"
    if is_dithered(condition):
        return 0.0, "its dots look like sharpening"
    if was_enlarged(condition):
        return 0.0, "it was enlarged before: shrinking it first helps more"
    blur, sharpening = suggested_blur(condition)
    if blur > 0 and condition.has_alpha:
        return 0.0, f"{blur:.2f} px of blur measured, but soft edges of transparency may be intended"
    if blur > 0:
        value = min(round(blur / PX_PER_VALUE, 1), 100.0)
        return value, f"{blur:.2f} px of blur more than a sharp picture"
    if sharpening > 0:
        text = f"sharpened as by a mask of {100 * sharpening:.0f}\u00a0%, radius 0.8\u00a0px"
        return -min(round(sharpening / AMOUNT_PER_VALUE, 1), 100.0), text
    return 0.0, "neither soft nor sharpened"


def _motion_blur(condition: Condition) -> tuple[float, float, str]:
    """A little less than was found: too much leaves ghosts."""
    motion = has_motion_blur(condition)
    if motion is None:
        return 0.0, 0.0, "no motion blur found"
    text = f"motion blur of {motion.px:.1f} px along {motion.deg:.0f}°"
    if motion.px > FAR_MOVED_PX:
        return 0.0, 0.0, f"{text}, which is too long to correct automatically"
    return round(_RATHER_LESS * motion.px, 1), round(motion.deg) % 180, text


def _texture_strength(condition: Condition, noise: float, compression: float) -> tuple[float, str]:
    """Grain is no help where there is grain, or none in the picture's nature."""
    if condition.content_type.kind in _A:
        return 0.0, f"it seems to be {_A[condition.content_type.kind]}, which has no texture"
    if noise > CLEARLY_NOISY or compression > CLEARLY_COMPRESSED:
        return 0.0, "its own noise or compression artifacts would add up with it"
    return Values().texture_strength, "it has neither noise nor compression; faces and smooth areas are protected"


def _crispness(condition: Condition) -> tuple[float, str]:
    """What makes edges as wide as they are in a picture of the size of the result; see docs/crispness.md."""
    kind = condition.content_type.kind
    if kind == "pixel art":
        return 0.0, "pixel art is crisp as it is"
    if kind == "drawing":
        return _DRAWN_CRISPNESS, "outlines of drawings need little"
    return _CRISPNESS, "enlarging leaves edges too wide"


def protected_faces(condition: Condition) -> tuple[ProtectedPlaces, ...]:
    """Places where an upscaler should not add texture: each detected face with its hair.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Circles, as fractions of the width.
    """
    faces = []
    for face in condition.faces[:_MOST_FACES]:
        radius = min(_AROUND_FACE * max(face.width, face.height) / condition.width, 1.0)
        x, y = face.x + face.width / 2, face.y + face.height / 2
        faces.append(ProtectedPlaces(x=x / condition.width, y=y / condition.height, radius=radius))
    return tuple(faces)


def _upscaler(condition: Condition, values: Values, reasons: dict[ValueName, str]) -> tuple[str, str]:
    """The upscaler that did best on held-out pictures of this kind; see docs/real-pictures.md."""
    kind = condition.content_type.kind
    if condition.sensor is not None and condition.sensor.mosaic:
        return "tessera", "it is a raw file: noise is removed in the sensor data"
    if is_dithered(condition):
        return "mender", reasons["noise"]
    if kind == "pixel art":
        return "nearest", "it is pixel art"
    if kind in _A:
        return "burin", f"it seems to be {_A[kind]}"
    if values.compression > 0:
        return "mender", reasons["compression"]
    if values.noise > 0:
        return "mender", f"of its noise: {reasons['noise']}"
    if values.motion_blur_px > 0:
        return "vellum", f"it is clean except for motion blur: {reasons['motion_blur_px']}"
    if values.blur > VERY_SOFT:
        return "mender", f"it is very soft: {reasons['blur']}"
    if values.blur != 0:
        return "vellum", f"it is clean, and its sharpness can be corrected: {reasons['blur']}"
    return "vellum", "nothing needs repair"
