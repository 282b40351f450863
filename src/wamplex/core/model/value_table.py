"""The adjustable values of a trial, each described once: sliders, options, checks and messages come from here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

ValueName = Literal[
    "sensor_noise",
    "noise",
    "compression",
    "codec",
    "blur",
    "motion_blur_px",
    "motion_blur_deg",
    "texture_strength",
    "protected",
    "crispness",
    "self_ensemble",
    "back_projection_levels",
    "keep_source",
]
Control = Literal["slider", "switch", "threshold"]


@dataclass(frozen=True)
class ValueInfo:
    """One value that users can set.

    Attributes
    ----------
    label : in the window
    tooltip : what it does to the picture, in the window
    help : the same on the command line, in one line
    flag, old_flag : option of the command line; the old one still works and is not listed
    minimum, maximum, default : its range, and what it is when nobody sets it
    unit : behind the number, with its space
    control : a slider, a switch, or a switch that sets a threshold
    ends : labels of the two ends of a slider with its zero in the middle
    """

    label: str
    tooltip: str
    help: str
    flag: str
    old_flag: str | None = None
    minimum: float = 0.0
    maximum: float = 100.0
    default: float | None = 0.0
    unit: str = ""
    control: Control = "slider"
    ends: tuple[str, str] | None = None


VALUES: dict[ValueName, ValueInfo] = {
    "sensor_noise": ValueInfo(
        "Sensor noise",
        "Sensor noise to remove: 100 removes all measured noise, 0 removes none",
        "Raw: percentage of the sensor's noise that Tessera removes.",
        "--sensor-noise",
        default=100.0,
        unit=" %",
    ),
    "noise": ValueInfo(
        "Noise",
        "Noise to remove. Too much makes skin and stone look like plastic",
        "Noise to remove, 0 to 100; measured if left out.",
        "--noise",
    ),
    "compression": ValueInfo(
        "Compression",
        "Compression artifacts to remove: blocks and fringes",
        "Compression artifacts to remove, 0 to 100; measured if left out.",
        "--deblock",
        "--blocks",
    ),
    "blur": ValueInfo(
        "Sharpness of the source",
        "Right: correct blur. Left: undo over-sharpening. Applied before enlarging. 50 is a blur of one pixel, "
        "-50 an unsharp mask of 100 %",
        "Blur to correct, 0 to 100; over-sharpening to undo, -100 to 0; measured if left out.",
        "--blur",
        "--softness",
        minimum=-100.0,
        ends=("oversharpened", "soft"),
    ),
    "motion_blur_px": ValueInfo(
        "Movement",
        "Motion blur to correct: how far the camera moved, in pixels of the source",
        "Motion blur to correct: length in source pixels.",
        "--motion-blur",
        "--moved",
        maximum=20.0,
        unit=" px",
    ),
    "motion_blur_deg": ValueInfo(
        "Along",
        "Direction of the movement, in degrees counter-clockwise from the right",
        "Direction of the motion, degrees counter-clockwise from the right.",
        "--motion-angle",
        "--moved-along",
        maximum=179.0,
        unit="°",
    ),
    "texture_strength": ValueInfo(
        "Invention",
        "Plausible texture to add; 0 adds none",
        "Texture to add, 0 to 100.",
        "--texture",
        "--invention",
        default=60.0,
    ),
    "crispness": ValueInfo(
        "Crispness",
        "Makes edges of the result narrower, and adds nothing that is not there. Too much turns hair into ribbons",
        "Narrower edges in the result, 0 to 100.",
        "--crispness",
    ),
    "self_ensemble": ValueInfo(
        "Slow and careful",
        "Averages eight runs, flipped and rotated: eight times the time, slightly better",
        "Average eight runs, flipped and rotated: eight times the time, slightly better.",
        "--self-ensemble",
        "--careful",
        maximum=1.0,
        control="switch",
    ),
    "back_projection_levels": ValueInfo(
        "Anchor to the source",
        "Corrects the result until shrinking it gives back the source, within one level",
        "Correct the result until it is within so many levels of the source when shrunk.",
        "--back-projection",
        "--anchor",
        maximum=64.0,
        default=None,
        control="threshold",
    ),
    "keep_source": ValueInfo(
        "Keep source",
        "Share of the plainly enlarged source to blend back in",
        "Percentage of the plainly enlarged source to blend back in.",
        "--keep-source",
    ),
}


def value_text(name: ValueName, value: float | bool | None) -> str:
    """A value as users read it, such as “Noise 40”; for a switch its label.

    Parameters
    ----------
    name : of the value
    value : in the unit of the value

    Returns
    -------
    Label, value and unit.
    """
    info = VALUES[name]
    return info.label if info.control == "switch" else f"{info.label} {value:g}{info.unit}"
