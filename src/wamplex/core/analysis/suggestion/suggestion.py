"""What is suggested for a picture: what its measurements ask for, unless another way is likely to be better."""

from __future__ import annotations

from dataclasses import replace

from wamplex.core.analysis.report.condition import (
    UPSCALING_ROWS,
    Condition,
    Measurement,
    is_dithered,
    measure_whole_condition,
)
from wamplex.core.analysis.suggestion.alternatives import Alternative, alternatives
from wamplex.core.analysis.suggestion.expected_gains import BY_RULES, USUAL_FACTOR, best_way, expected_gains
from wamplex.core.analysis.suggestion.rules import suggest_by_rules
from wamplex.core.analysis.suggestion.suggestions import Suggestions
from wamplex.core.base.progress import Progress
from wamplex.core.model.picture import Picture

# The key that stands for whatever a picture's measurements suggest.
SUGGESTED = "suggested"
# Upscalers that are not judged, and that another's values suit too.
_ALIKE = {"vellum": ("thicket", "vellum-quick")}


def measure_and_suggest(picture: Picture, progress: Progress | None = None, *, faces: bool = False) -> Suggestions:
    """Measure what counts for the enlargement of a picture, and of its file; faces where asked for.

    Parameters
    ----------
    picture : the decoded picture
    progress : receives the progress; cancelling it raises `Cancelled`
    faces : whether faces are detected too

    Returns
    -------
    Upscaler and values, each with its reason.
    """
    rows: tuple[Measurement, ...] = (*UPSCALING_ROWS, "faces") if faces else UPSCALING_ROWS
    return suggest(measure_whole_condition(picture, progress, rows))


def suggest(condition: Condition, factor: float = USUAL_FACTOR) -> Suggestions:
    """Derive suggestions from a measured condition.

    Parameters
    ----------
    condition : what was measured
    factor : of the enlargement

    Returns
    -------
    What the rules say of its measurements, or another way to enlarge it that is likely to be nearer to the truth
    even if less comes true than expected; each value with its reason.
    """
    rules = suggest_by_rules(condition)
    unknown = rules.upscaler in ("tessera", "nearest") or rules.shrink_first > 1 or condition.has_alpha
    if unknown or is_dithered(condition):
        return rules  # of these the judge knows nothing, or less
    gains = expected_gains(condition, factor)
    if not gains:
        return rules
    ways = {way.key: way for way in alternatives(condition)}
    ways[BY_RULES] = Alternative(BY_RULES, rules.upscaler, rules.values)
    suggestions = replace(rules, judged=tuple((way, gains[key]) for key, way in ways.items()))
    best = best_way(gains, condition.content_type.colours)
    if best is None:
        return replace(suggestions, upscaler="bicubic", reason="no upscaler is likely to come nearer to the truth")
    if best == BY_RULES:
        return suggestions
    reason = "it is likely to come nearest to the truth"
    way = ways[best]
    chosen = dict.fromkeys((way.upscaler, *_ALIKE.get(way.upscaler, ())), way.values)
    return replace(suggestions, upscaler=way.upscaler, reason=reason, chosen=chosen)


def suggest_trials(condition: Condition) -> tuple[tuple[str, str], ...]:
    """Suggest upscalers beside the default trials.

    Parameters
    ----------
    condition : what was measured

    Returns
    -------
    Key and reason of each.
    """
    best = suggest(condition)
    trials = [(best.upscaler, f"suggested because {best.reason}")]
    if best.upscaler == "tessera" and (best.values.noise > 0 or best.values.compression > 0):
        trials.append(("mender", "tried because the developed picture is noisy"))
    if any(spot.kind == "lettering" for spot in condition.spots) and best.upscaler != "burin":
        trials.append(("burin", "tried because lettering was found"))
    return tuple(trials)
