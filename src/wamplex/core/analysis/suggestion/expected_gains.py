"""How much each way to enlarge is likely to gain over bicubic, as a small network predicts it.

The network has seen how much thousands of pictures of known history gained; see ``models/judge.md``.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wamplex.core.analysis.measuring_network import small_network
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.suggestion.alternatives import ALTERNATIVE_KEYS
from wamplex.core.analysis.suggestion.judge_inputs import condition_numbers

# Quantiles that the network says: nine in ten of the gains lie between the first and the last.
LEVELS = (0.05, 0.1, 0.5, 0.95)
BY_RULES = "rules"
# In the order of its outputs.
JUDGED_KEYS = (*ALTERNATIVE_KEYS, BY_RULES)
_NETWORK = "judge.onnx"
USUAL_FACTOR = 4.0
# How much better another way must be, in cautious dB, before it takes the place of what the rules say: with less, more
# pictures with a usual history lose, of which the rules know enough. Of pictures in few tones they know nothing.
_CLEARLY_BETTER_DB, _MOST_FEW_TONES = 0.4, 16
# A likely gain of no more than this is none.
_NO_GAIN_DB = 0.1
_MOST_FACTOR = 4.0  # of the pictures that it has learned from


@dataclass(frozen=True)
class ExpectedGain:
    """What one way to enlarge is likely to gain over bicubic, in dB of luma PSNR.

    Attributes
    ----------
    low_db, high_db : nine in ten gains lie between them
    cautious_db : nine in ten gains are higher
    likely_db : the median
    """

    low_db: float
    cautious_db: float
    likely_db: float
    high_db: float

    def less(self, db: float) -> ExpectedGain:
        """The same by so many dB less."""
        return ExpectedGain(self.low_db - db, self.cautious_db - db, self.likely_db - db, self.high_db - db)

    @property
    def text(self) -> str:
        """For users, such as "1.1 dB nearer to the truth than bicubic, 0.3 to 1.6"."""
        nearer = "nearer to" if self.likely_db >= 0 else "further from"
        spread = f"{_signed(self.low_db)} to {_signed(self.high_db)}"
        return f"{abs(self.likely_db):.1f} dB {nearer} the truth than bicubic, {spread}"


def expected_gains(condition: Condition, factor: float = USUAL_FACTOR) -> dict[str, ExpectedGain]:
    """The likely gains of all ways to enlarge; none where the picture is too small to be read.

    Parameters
    ----------
    condition : with the rows that enlarging depends on
    factor : of the enlargement

    Returns
    -------
    By the key of each alternative, and by `BY_RULES` of what the rules suggest.
    """
    known = condition.predicted if factor == USUAL_FACTOR else None
    predicted = _predict(condition, factor) if known is None else known
    return {key: ExpectedGain(*gains) for key, gains in predicted.items()}


def best_way(gains: dict[str, ExpectedGain], colours: int) -> str | None:
    """The way that gains most even if less comes true than expected; the rules have the benefit of the doubt.

    Parameters
    ----------
    gains : by key, not empty
    colours : how many different colours the picture has; of few the rules know nothing

    Returns
    -------
    Its key; None where it is likely to gain nothing over bicubic.
    """
    advance = _CLEARLY_BETTER_DB if colours > _MOST_FEW_TONES else 0.0
    key = max(gains, key=lambda key: gains[key].cautious_db + (advance if key == BY_RULES else 0.0))
    return key if gains[key].likely_db > _NO_GAIN_DB else None


def with_predictions(condition: Condition) -> Condition:
    """A measured condition with the likely gains at the usual factor, so that nobody has to wait for them later.

    Parameters
    ----------
    condition : with the rows that enlarging depends on

    Returns
    -------
    The same, with ``predicted``.
    """
    return replace(condition, predicted=_predict(condition, USUAL_FACTOR))


def _predict(condition: Condition, factor: float) -> dict[str, tuple[float, ...]]:
    read = condition.read
    if read is None or not len(read.features):
        return {}
    numbers = condition_numbers(condition, min(factor, _MOST_FACTOR))
    inputs = np.stack([np.concatenate([features, numbers]) for features in read.features])
    (output,) = small_network(_NETWORK).run(None, {"numbers": inputs})
    quantiles = np.sort(output.mean(axis=0), axis=-1).tolist()
    return {key: tuple(gains) for key, gains in zip(JUDGED_KEYS, quantiles, strict=True)}


def _signed(db: float) -> str:
    """With a real minus, and no minus before nothing."""
    return f"{db:.1f}".replace("-", "\u2212") if abs(db) >= 0.05 else "0.0"
