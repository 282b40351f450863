"""Measures what is suggested for pictures whose history has steps that nothing has learned from."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from training.second import second_drawings, second_pages, second_photographs
from training.unlisted.chain import LEFT_OUT
from training.unlisted.collect import Judged, judge_picture
from wamplex.core.analysis.suggestion.expected_gains import JUDGED_KEYS

_NEAR_DB = 0.05
_SIDE_PX = 480  # of a truth
_HEAD = """# Pictures with a history that nobody listed

Made by `make evaluate-unlisted`. The second held-out set (25 photographs, 6 drawings, 4 pages), 480 px of each,
shrunk 2, 3 or 4 times. Each has one to five steps in any order, drawn by chance, among them at least one of the kinds
that nothing was trained on: {kinds}. Gain over bicubic in luma PSNR (dB), without crispness. *Suggested*: what the
program suggests. *By rules*: what it would suggest without the judge. *Near*: within 0.05 dB of the best of all ways
that are judged.

| kind | pictures | suggested | least | by rules | best | near | below bicubic | below -0.3 dB |
|---|---|---|---|---|---|---|---|---|
"""


@dataclass(frozen=True)
class Case:
    """One judged picture.

    Attributes
    ----------
    kind : the step that nothing has learned from
    suggested : gain of what is suggested, dB
    """

    kind: str
    suggested: float
    judged: Judged


def measure_unlisted(work: Path, out: Path, rounds: int) -> None:
    """Write the table as Markdown, and every case as JSON beside the checkpoints."""
    pictures = {**second_photographs(work), **second_drawings(work), **second_pages(work)}
    cases: list[Case] = []
    for case in _cases(pictures, rounds):
        cases.append(case)
        if len(cases) % 20 == 0:
            out.write_text(table(cases))
            print(len(cases), flush=True)
    out.write_text(table(cases))
    told = [
        {
            "kind": c.kind,
            "suggested": c.suggested,
            "gains": c.judged.gains.tolist(),
            "steps": c.judged.chain.steps,
            "source": c.judged.source,
            "factor": c.judged.factor,
            "numbers": c.judged.numbers.tolist(),  # so that thresholds can be tried without enlarging anything again
        }
        for c in cases
    ]
    (work / "unlisted.json").write_text(json.dumps(told, indent=1))


def _cases(pictures: dict[str, np.ndarray], rounds: int) -> Iterator[Case]:
    for number in range(rounds * len(pictures)):
        name, truth = list(pictures.items())[number % len(pictures)]
        random = np.random.default_rng((77, number))
        factor = int(random.integers(2, 5))
        height, width = (min(n, _SIDE_PX) // factor * factor for n in truth.shape[:2])
        y, x = (int(random.integers(n - s + 1)) for n, s in zip(truth.shape, (height, width), strict=False))
        cut = np.ascontiguousarray(truth[y : y + height, x : x + width])
        judged = judge_picture(cut, factor, int(random.integers(2**31)), unlisted=True, source=name)
        if judged is not None:
            kind = next((k for k in judged.chain.kinds if k in LEFT_OUT), "shrunk to the nearest pixel")
            yield Case(kind, judged.suggested, judged)


def table(cases: list[Case]) -> str:
    """A row for each kind, and one for all."""
    kinds = sorted({case.kind for case in cases})
    rows = [_row(kind, [case for case in cases if case.kind == kind]) for kind in kinds]
    return _HEAD.format(kinds=", ".join(LEFT_OUT)) + "\n".join([*rows, _row("all", cases)]) + "\n"


def _row(name: str, cases: list[Case]) -> str:
    suggested = np.array([case.suggested for case in cases])
    gains = np.array([case.judged.gains for case in cases])
    best = np.maximum(gains.max(axis=1), 0)
    rules = gains[:, len(JUDGED_KEYS) - 1]
    cells = [f"{suggested.mean():+.2f}", f"{suggested.min():+.2f}", f"{rules.mean():+.2f}", f"{best.mean():+.2f}"]
    parts = (suggested >= best - _NEAR_DB, suggested < -0.005, suggested < -0.3)
    cells += [f"{100 * part.mean():.0f} %" for part in parts]
    return f"| {name} | {len(cases)} | {' | '.join(cells)} |"
