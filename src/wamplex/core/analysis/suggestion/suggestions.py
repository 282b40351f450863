"""What is suggested for a picture, with reasons, and what each way to enlarge it is likely to gain."""

from __future__ import annotations

from dataclasses import dataclass, field

from wamplex.core.analysis.suggestion.alternatives import Alternative
from wamplex.core.analysis.suggestion.expected_gains import ExpectedGain
from wamplex.core.model.upscale_values import Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.stages.deconvolution import PX_PER_VALUE

Judged = tuple[tuple[Alternative, ExpectedGain], ...]
# What is chosen by the gain that it is likely to bring.
CHOSEN_VALUES: tuple[ValueName, ...] = ("noise", "compression", "blur", "motion_blur_px")
# Values that differ by no more than this gain as much.
_AS_GOOD_AS_EQUAL = 3.0
# What crispness takes away of the luma PSNR of photographs at 4x, on average, for each unit of its value.
_DB_PER_CRISPNESS = 0.0054


@dataclass(frozen=True)
class Suggestions:
    """An upscaler and values, each with its reason.

    Attributes
    ----------
    upscaler : key of the upscaler that suits the picture
    reason : why, in words that go on after "because"
    values : as measured, of whichever upscaler heeds them
    reasons : where the values come from, in words
    shrink_first : how much an earlier enlargement is to be undone by, 1 where there was none
    chosen : by the key of an upscaler, values that are likely to come nearer to the truth than the measured ones
    judged : ways to enlarge the picture, and what each is likely to gain without crispness; none where that is not
        known
    """

    upscaler: str
    reason: str
    values: Values
    reasons: dict[ValueName, str]
    shrink_first: float = 1.0
    chosen: dict[str, Values] = field(default_factory=dict)
    judged: Judged = ()

    @property
    def softness_px(self) -> float:
        """Blur of the source, in its pixels; 0 where it is sharp or was sharpened."""
        return max(self.values.blur, 0.0) * PX_PER_VALUE

    def values_for(self, upscaler: str, heeded: tuple[ValueName, ...]) -> Values:
        """The suggested values of one upscaler; what it does not heed stays as it is usually.

        Parameters
        ----------
        upscaler : its key
        heeded : names of the values that it uses; one that does not clean gets no crispness where there is something
            to clean, since noise and blocks would become crisp too
        """
        values = Values(**{name: getattr(self.values, name) for name in heeded})
        chosen = self.chosen.get(upscaler)
        if chosen is not None:
            values = values.replace(**{name: getattr(chosen, name) for name in CHOSEN_VALUES if name in heeded})
        return values.replace(crispness=0.0) if self._leaves_damage(heeded) else values

    def reason_for(self, upscaler: str, heeded: tuple[ValueName, ...], name: ValueName) -> str | None:
        """Where a value of one upscaler comes from.

        Parameters
        ----------
        upscaler : its key
        heeded : names of the values that it uses
        name : of the value

        Returns
        -------
        In words; None of a value that nothing is measured for.
        """
        if name == "crispness" and self._leaves_damage(heeded):
            return "the noise and artifacts that it does not remove would become crisp too"
        reason, chosen = self.reasons.get(name), self.chosen.get(upscaler)
        if reason is None or chosen is None or name not in CHOSEN_VALUES:
            return reason
        before, now = getattr(self.values, name), getattr(chosen, name)
        if abs(now - before) < 1:
            return reason
        return f"{reason}; {'less' if abs(now) < abs(before) else 'more'} is likely to come nearer to the truth"

    def _leaves_damage(self, heeded: tuple[ValueName, ...]) -> bool:
        """Whether noise or compression was measured that an upscaler with such values does not remove."""
        cleans = "noise" in heeded or "sensor_noise" in heeded
        return not cleans and (self.values.noise > 0 or self.values.compression > 0)

    def expected_gain(self, upscaler: str, values: Values) -> ExpectedGain | None:
        """What an upscaler is likely to gain with some values.

        Parameters
        ----------
        upscaler : its key
        values : of the trial

        Returns
        -------
        Of the way to enlarge that comes nearest; None where none is near, or nothing is known.
        """
        if values.keep_source > 0 or values.back_projection_levels is not None:
            return None
        ways = [(_distance(values, way.values), gain) for way, gain in self.judged if way.upscaler == upscaler]
        distance, gain = min(ways, key=lambda one: one[0], default=(_AS_GOOD_AS_EQUAL + 1, None))
        if gain is None or distance > _AS_GOOD_AS_EQUAL:
            return None
        return gain.less(_DB_PER_CRISPNESS * values.crispness)


def _distance(values: Values, others: Values) -> float:
    """How far apart values are that change what is near to the truth."""
    return float(max(abs(getattr(values, name) - getattr(others, name)) for name in CHOSEN_VALUES))
