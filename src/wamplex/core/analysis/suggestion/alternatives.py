"""The ways to enlarge a picture among which one is suggested."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from wamplex.core.analysis.report.condition import Condition
from wamplex.core.model.upscale_values import Values
from wamplex.core.upscale.stages.deconvolution import AMOUNT_PER_VALUE, PX_PER_VALUE

# Cleanup that helps where damage is there but not recognised, as video frames and sites leave it.
_CAUTIOUS_NOISE, _CAUTIOUS_COMPRESSION = 10.0, 20.0
_STRONG_NOISE, _STRONG_COMPRESSION = 20.0, 50.0
# In the order of the network's outputs.
ALTERNATIVE_KEYS = (
    "lanczos",
    "vellum",
    "vellum half blur",
    "vellum blur",
    "mender",
    "mender half blur",
    "mender blur",
    "mender cautious",
    "mender compression",
    "mender strong",
    "burin plain",
    "burin plain blur",
    "burin",
    "burin blur",
    "burin strong",
)


@dataclass(frozen=True)
class Alternative:
    """One way to enlarge.

    Attributes
    ----------
    key : its name in the table of predictions
    upscaler : key of the upscaler
    values : of the upscaler
    """

    key: str
    upscaler: str
    values: Values


def alternatives(condition: Condition) -> tuple[Alternative, ...]:
    """The ways that are judged, always as many and in the same order.

    Parameters
    ----------
    condition : with at least the rows that enlarging depends on

    Returns
    -------
    Interpolation, networks without cleanup, with the measured cleanup, and with more of it; each with the blur
    that was measured, half of it, and none.
    """
    blur = measured_blur(condition)
    noise, compression = min(2 * condition.noise.levels, 100.0), condition.compression.strength
    codec: Literal["jpeg", "webp"] = "jpeg" if condition.compression.codec == "jpeg" else "webp"
    measured = Values(noise=noise, compression=compression, codec=codec)
    cautious = measured.replace(noise=max(noise, _CAUTIOUS_NOISE), compression=max(compression, _CAUTIOUS_COMPRESSION))
    strong = measured.replace(noise=max(noise, _STRONG_NOISE), compression=max(compression, _STRONG_COMPRESSION))
    compressed = measured.replace(noise=noise / 2, compression=max(compression, _STRONG_COMPRESSION))
    plain = Values()
    ways = {
        "lanczos": ("lanczos", plain),
        "vellum": ("vellum", plain),
        "vellum half blur": ("vellum", plain.replace(blur=blur / 2)),
        "vellum blur": ("vellum", plain.replace(blur=blur)),
        "mender": ("mender", measured),
        "mender half blur": ("mender", measured.replace(blur=blur / 2)),
        "mender blur": ("mender", measured.replace(blur=blur)),
        "mender cautious": ("mender", cautious),
        "mender compression": ("mender", compressed),
        "mender strong": ("mender", strong),
        "burin plain": ("burin", plain),
        "burin plain blur": ("burin", plain.replace(blur=blur)),
        "burin": ("burin", measured),
        "burin blur": ("burin", measured.replace(blur=blur)),
        "burin strong": ("burin", strong),
    }
    return tuple(Alternative(key, *ways[key]) for key in ALTERNATIVE_KEYS)


def measured_blur(condition: Condition) -> float:
    """The value of "Sharpness of the source" that the network reads, without any caution.

    Parameters
    ----------
    condition : with the row "read"

    Returns
    -------
    -100 (sharpened) to 100 (soft); 0 where the picture is too small to tell.
    """
    read = condition.read
    if read is None:
        return 0.0
    value = read.blur.value / PX_PER_VALUE - read.sharpening.value / AMOUNT_PER_VALUE
    return round(min(max(value, -100.0), 100.0), 1)
