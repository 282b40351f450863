"""What a raw file tells, in words."""

from __future__ import annotations

from wamplex.core.analysis.report.sensor_exposure import SensorExposure

_MIDDLE_GREY = 0.18
_LEAST_CUT_OFF = 0.0005
_CHANNELS = ("red", "green", "blue")


def sensor_text(exposure: SensorExposure) -> tuple[str, str]:
    """In short, and as a sentence or two: the noise in levels, and in electrons where it is that of light."""
    shot = exposure.shot
    parts = [f"ISO {shot.iso:.0f}" if shot.iso else "", exposure_text(shot.exposure_s)]
    short = ", ".join(part for part in parts if part) or "raw"
    green = exposure.noise[1]
    levels = exposure.levels * green.deviation(_MIDDLE_GREY)
    whence = "as the file states" if exposure.stated else "measured on the mosaic"
    text = f"Noise at mid-grey: {levels:,.0f} of {exposure.levels:,.0f} levels, {whence}"
    if green.shot > 0:
        reading = green.read**0.5 / green.shot
        text += f"; about {1 / green.shot:,.0f} electrons at white, read noise {reading:.1f} electrons"
    cut = [
        f"{100 * fraction:.1f} % of {name}"
        for fraction, name in zip(exposure.clipped_fractions, _CHANNELS, strict=True)
        if fraction >= _LEAST_CUT_OFF
    ]
    text += f". Clipped: {', '.join(cut)}." if cut else ". Nothing is clipped."
    return short, text if exposure.mosaic else f"{text} The file has no Bayer mosaic."


def exposure_text(seconds: float) -> str:
    """An exposure time as photographers write it; empty when it is not known."""
    if seconds <= 0:
        return ""
    return f"{seconds:.3g} s" if seconds >= 0.3 else f"1/{1 / seconds:.0f} s"
