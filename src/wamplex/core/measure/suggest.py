"""The cleanup that a picture's own measurements suggest, with the reasons."""

from __future__ import annotations

from dataclasses import dataclass

from wamplex.core.measure.compression import Compression
from wamplex.core.measure.condition import Condition, compression_found
from wamplex.core.measure.findings import FINE_QUALITY, LEAST_NOISE_LEVELS
from wamplex.core.measure.noise import noise_levels
from wamplex.core.measure.sample import Sample
from wamplex.core.picture import Picture


@dataclass(frozen=True)
class Cleanup:
    """Suggested values of the noise and compression sliders, each 0 to 100 with its reason."""

    noise: float
    noise_reason: str
    blocks: float
    blocks_reason: str


def suggested_cleanup(picture: Picture) -> Cleanup:
    """Measure noise and compression of a picture, and of the file it came from."""
    return _cleanup(noise_levels(picture), compression_found(Sample(picture)))


def cleanup_of(condition: Condition) -> Cleanup:
    """What a condition that has been measured suggests."""
    return _cleanup(condition.noise.levels, condition.compression)


def _cleanup(levels: float, compression: Compression) -> Cleanup:
    if levels < LEAST_NOISE_LEVELS:
        noise, noise_reason = 0.0, f"{levels:.1f} levels measured in smooth places, which is clean"
    else:
        noise = min(round(2 * levels, 1), 100.0)
        noise_reason = f"{levels:.1f} levels measured in smooth places"
    worst = compression.worst
    blocks_reason = compression.reason
    if compression.earlier is not None:
        blocks_reason += f", saved before at about {compression.earlier}"
    blocks = 0.0 if worst is None or worst >= FINE_QUALITY else float(100 - worst)
    return Cleanup(noise, noise_reason, blocks, blocks_reason)


# More noise than this is worth a trial that takes it out.
_WORTH_A_TRIAL_LEVELS = 3.0


def suggested_trials(condition: Condition) -> tuple[tuple[str, str], ...]:
    """Upscalers that suit the picture beside the usual ones: key and reason of each."""
    cleanup = cleanup_of(condition)
    found = []
    if cleanup.blocks > 0:
        found.append(("mender", f"tried because {cleanup.blocks_reason}"))
    elif cleanup.noise >= 2 * _WORTH_A_TRIAL_LEVELS:
        found.append(("mender", f"tried because of the noise: {cleanup.noise_reason}"))
    if condition.medium.kind in ("drawing", "lettering"):
        found.append(("burin", f"tried because it seems to be {_A[condition.medium.kind]}"))
    elif any(spot.kind == "lettering" for spot in condition.spots):
        found.append(("burin", "tried because there seems to be lettering"))
    return tuple(found)


_A = {"drawing": "a drawing", "lettering": "lettering"}
