"""How fast this computer makes files, learned from earlier jobs."""

from __future__ import annotations

import json
import math
from contextlib import suppress
from pathlib import Path

from platformdirs import user_state_path

from wamplex.core.base.atomic_files import write_atomically
from wamplex.core.base.bounded_parsing import parse_json
from wamplex.core.model.recipe import Recipe

# Each new file counts for so much, so that a machine that got busier is followed within a few files.
_WEIGHT = 0.3
_MOST_KINDS = 200


def load_throughputs() -> dict[str, float]:
    """Seconds for each megapixel, by what decides the pace; for `expected_seconds` of many files."""
    try:
        listed = parse_json(_path().read_bytes())
        return {str(k): float(v) for k, v in listed.items() if 0 < float(v) < 1e6}
    except (OSError, ValueError, TypeError, AttributeError):
        return {}


def expected_seconds(recipe: Recipe, megapixels: float, throughputs: dict[str, float] | None = None) -> float | None:
    """Expected duration for a file of this size, in seconds; None until a similar file was written here."""
    speed = (load_throughputs() if throughputs is None else throughputs).get(_kind(recipe))
    return None if speed is None else speed * megapixels


def record_throughput(recipe: Recipe, megapixels: float, seconds: float) -> None:
    """A file was made. That it cannot be noted is no reason to stop."""
    if megapixels <= 0 or seconds <= 0:
        return
    throughputs, kind = load_throughputs(), _kind(recipe)
    now = seconds / megapixels
    throughputs[kind] = now if kind not in throughputs else (1 - _WEIGHT) * throughputs[kind] + _WEIGHT * now
    throughputs[kind] = throughputs.pop(kind)  # the latest stands last
    latest = dict(list(throughputs.items())[-_MOST_KINDS:])
    with suppress(OSError):
        _path().parent.mkdir(parents=True, exist_ok=True)
        write_atomically(_path(), json.dumps(latest).encode(), durable=False)


def duration_text(seconds: float) -> str:
    """About how long: "8 s", "3 min", "1 h 20 min"."""
    if seconds < 60:
        return f"{max(1, round(seconds))} s"
    minutes = round(seconds / 60)
    return f"{minutes} min" if minutes < 60 else f"{minutes // 60} h {minutes % 60:02d} min"


def _kind(recipe: Recipe) -> str:
    """Key for the throughput: upscalers, and whether eight runs are averaged."""
    specs = [
        recipe.base,
        *(layer.source_trial for layer in recipe.layers if layer.on and layer.source_trial is not None),
    ]
    if recipe.faces is not None and recipe.faces.source_trial is not None:
        specs.append(recipe.faces.source_trial)
    parts = sorted(f"{spec.upscaler}{' careful' if spec.values.self_ensemble else ''}" for spec in specs)
    return f"{'+'.join(parts)} {math.ceil(recipe.factor)}x"


def _path() -> Path:
    return user_state_path("wamplex") / "pace.json"
