"""How much each way to enlarge is likely to gain over bicubic, as a small network predicts it.

The network has seen how much tens of thousands of pictures of known history gained; see ``models/judge.md``.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wamplex.core.analysis.measuring_network import small_network
from wamplex.core.analysis.report.condition import Condition
from wamplex.core.analysis.suggestion.alternatives import ALTERNATIVE_KEYS, Alternative, alternatives
from wamplex.core.analysis.suggestion.judge_inputs import condition_numbers

# Quantiles that the network says: nine in ten of the gains lie between the first and the last.
LEVELS = (0.05, 0.25, 0.5, 0.95)
_NETWORK = "judge.onnx"
_MOST_FACTOR = 4.0  # of the pictures that it has learned from


@dataclass(frozen=True)
class ExpectedGain:
    """What one way to enlarge is likely to gain over bicubic, in dB of luma PSNR.

    Attributes
    ----------
    low_db, high_db : nine in ten gains lie between them
    cautious_db : three in four gains are higher
    likely_db : the median
    """

    alternative: Alternative
    low_db: float
    cautious_db: float
    likely_db: float
    high_db: float


def expected_gains(condition: Condition, factor: float) -> tuple[ExpectedGain, ...]:
    """The likely gains of all alternatives; none where the picture is too small to be read.

    Parameters
    ----------
    condition : with the rows that enlarging depends on
    factor : of the enlargement

    Returns
    -------
    In the order of `alternatives`.
    """
    read = condition.read
    if read is None or not len(read.features):
        return ()
    numbers = condition_numbers(condition, min(factor, _MOST_FACTOR))
    inputs = np.stack([np.concatenate([features, numbers]) for features in read.features])
    (output,) = small_network(_NETWORK).run(None, {"numbers": inputs})
    gains = output.mean(axis=0).reshape(len(ALTERNATIVE_KEYS), len(LEVELS))
    ways = zip(alternatives(condition), gains.tolist(), strict=True)
    return tuple(ExpectedGain(way, *quantiles) for way, quantiles in ways)
