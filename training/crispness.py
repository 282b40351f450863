"""Measures what Crispness does to held-out pictures, and writes the table of the documentation."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from dataclasses import astuple
from pathlib import Path

import numpy as np
from PIL import Image

from training.crisp.sharpness import sharpness
from training.heldout import CONDITIONS, held_out_drawings, held_out_photographs, luma_psnr, shrink
from training.real import enlarged_by, written
from wamplex.core.intake.read import read_picture
from wamplex.core.model.upscale_values import Values

_SIDE_PX, _COUNT = 480, 8
_VALUES = (0, 25, 50, 75, 100)
_HEAD = """# Crispness, measured

Made by `make evaluate-crispness`, on held-out pictures of [measured.md](measured.md): eight photographs, eight
drawings and four pages, 480 px of each. *PSNR*: of luma, in dB. *Edges*: how wide the truth's strongest edges are in
the result; 1 is as wide as in the truth. *Finest*, *fine*: strength of what a Gaussian of 1 px takes away, and of what
lies between Gaussians of 1 and 2 px; 1 is as strong as in the truth.

At 50, edges of photographs at 4x are a fifth narrower and fine detail is a quarter stronger. The price is up to 0.3 dB:
what is nearest to the truth on average is softer than the truth. That is why 50 is suggested for photographs and
lettering, and 25 for drawings, which are nearly crisp without it. Where noise or compression is left in the result, 0
is suggested: it would become crisp too.

| picture | factor | crispness | PSNR | edges | finest | fine |
|---|---|---|---|---|---|---|
"""


def write_crispness_table(work: Path, out: Path, factors: tuple[int, ...]) -> None:
    """Write the table as Markdown."""
    out.write_text(_HEAD + "\n".join(_rows(work, factors)) + "\n")


def _rows(work: Path, factors: tuple[int, ...]) -> Iterator[str]:
    photographs = _some(held_out_photographs(work), _COUNT)
    drawn = held_out_drawings(work)
    drawings = _some({n: p for n, p in drawn.items() if "page" not in n}, _COUNT)
    pages = _some({n: p for n, p in drawn.items() if "page" in n}, 4)
    groups = (
        ("photographs", photographs, "clean", "vellum", Values()),
        ("photographs, JPEG 50", photographs, "JPEG 50", "mender", Values(compression=50)),
        ("photographs, noise 15", photographs, "noise 15", "mender", Values(noise=30)),
        ("drawings", drawings, "clean", "burin", Values()),
        ("pages", pages, "clean", "burin", Values()),
    )
    for factor in factors:
        for name, pictures, condition, key, values in groups:
            for crispness in _VALUES:
                numbers = [_measured(p, factor, condition, key, values.replace(crispness=crispness)) for p in pictures]
                psnr, *others = np.mean(numbers, axis=0)
                cells = " | ".join(f"{n:.2f}" for n in (psnr, *others))
                yield f"| {name} | {factor}x | {crispness} | {cells} |"
                print(name, factor, crispness, cells, flush=True)


def _some(pictures: dict[str, np.ndarray], count: int) -> list[np.ndarray]:
    return [np.ascontiguousarray(p[:_SIDE_PX, :_SIDE_PX]) for p in list(pictures.values())[:count]]


def _measured(picture: np.ndarray, factor: int, condition: str, key: str, values: Values) -> tuple[float, ...]:
    truth, small = shrink(picture, factor)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "small.png"
        Image.fromarray(CONDITIONS[condition](small).pixels).save(path)
        result = written(enlarged_by(read_picture(path), truth, key, values))
    return luma_psnr(result, truth, factor), *astuple(sharpness(result, truth))
