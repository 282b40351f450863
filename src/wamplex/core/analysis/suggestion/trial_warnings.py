"""Warns when a trial will probably fail, from the measurements of the picture."""

from __future__ import annotations

from wamplex.core.analysis.suggestion.rules import CLEARLY_COMPRESSED, CLEARLY_NOISY
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.model.upscale_values import Values

_CLEARLY_OFF = 15.0  # of the softness value
_DRAWN = ("drawing", "lettering")


def warn_of_trial(
    upscaler: str, kind: str, values: Values, suggested: Suggestions, content_type: str, *, dithered: bool = False
) -> str | None:
    """A sentence for the head of a trial; None where nothing speaks against it.

    Parameters
    ----------
    upscaler, kind : key of the upscaler, and what it is, such as "interpolation" or "learned"
    values : of the trial
    content_type : kind of picture that was detected
    dithered : whether dots of a palette stand for tones
    """
    measured = suggested.values
    artifacts = "dots of the palette" if dithered else "compression artifacts"
    if kind != "learned" or upscaler == "tessera":  # which sees neither noise nor softness that came later
        return None
    if upscaler == "thicket" and values.texture_strength > 0:
        if content_type in _DRAWN:
            return "Adds texture to lettering and flat colour."
        if measured.compression > CLEARLY_COMPRESSED or measured.noise > CLEARLY_NOISY:
            return f"Adds texture to noise or {artifacts} that are still there."
    if upscaler == "concert":  # which begins with Mender, and undoes softness only as far as it was measured
        return None
    if upscaler not in ("mender", "burin"):
        if measured.compression > CLEARLY_COMPRESSED:
            return f"Sharpens {artifacts} too. Mender removes them."
        if measured.noise > CLEARLY_NOISY:
            return "Amplifies noise. Mender removes it."
    if measured.blur > _CLEARLY_OFF and values.blur < measured.blur - _CLEARLY_OFF:
        return "The source is blurred, and this trial does not correct it."
    if measured.blur < -_CLEARLY_OFF and values.blur > measured.blur + _CLEARLY_OFF:
        return "The source was sharpened, and this trial amplifies its halos."
    return None
