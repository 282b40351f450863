"""Rendering against the libraries it could at best equal."""

from __future__ import annotations

from functools import partial

import numpy as np
from PIL import Image

from benchmarks.table import Figure, best_of, best_of_each
from wamplex.core.base.window import Window
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.model.upscale_values import Values
from wamplex.core.render.plan import plan
from wamplex.core.render.render import render
from wamplex.core.upscale.networks.sessions import load_session
from wamplex.core.upscale.upscalers.learned import Learned
from wamplex.core.upscale.upscalers.vellum import VELLUM, VELLUM_QUICK


def photo_like(width: int, height: int) -> np.ndarray:
    """(height, width, 3) uint8 with detail at all scales, the same every time."""
    random = np.random.default_rng(5)
    total = np.zeros((height, width, 3))
    for octave in range(6):
        cells = (max(2, height >> (7 - octave)), max(2, width >> (7 - octave)))
        small = Image.fromarray(random.integers(0, 256, (*cells, 3), dtype=np.uint8))
        total += np.asarray(small.resize((width, height), Image.Resampling.BICUBIC)) / 2**octave
    return (total / total.max() * 255).astype(np.uint8)


def interpolation() -> list[Figure]:
    """3 MP to 48 MP in float, against Pillow's 8-bit Lanczos."""
    image = Image.fromarray(photo_like(2000, 1500))
    picture = Picture(np.asarray(image).astype(np.float32) / np.float32(255))
    window = Window(0, 0, 8000, 6000)
    keys = ("lanczos", "bicubic")
    theirs, *all_ours = best_of_each(
        [
            lambda: image.resize((8000, 6000), Image.Resampling.LANCZOS),
            *(partial(render, picture, Recipe(base=TrialSpec(upscaler=key), factor=4.0), window) for key in keys),
        ]
    )
    figures = []
    for key, ours in zip(keys, all_ours, strict=True):
        detail = f"{ours:.2f} s against {theirs:.2f} s"
        figures.append(Figure(f"{key} 3 to 48 MP, time over Pillow Lanczos", ours / theirs, 1.0, "x", True, detail))
    return figures


def crispness() -> list[Figure]:
    """Crispness against the network that it follows."""
    picture = Picture(photo_like(600, 400).astype(np.float32) / np.float32(255))
    figures = []
    for factor in (4.0, 2.0):
        window = Window(0, 0, round(600 * factor), round(400 * factor))
        recipes = [
            Recipe(base=TrialSpec(upscaler="vellum", values=Values(crispness=c)), factor=factor) for c in (0, 50)
        ]
        plain, crisp = best_of_each([partial(render, picture, recipe, window) for recipe in recipes])
        detail = f"{crisp:.3f} s against {plain:.3f} s"
        figures.append(
            Figure(f"crispness at {factor:g}x, part of Vellum's time", crisp / plain - 1, 0.1, "x", True, detail)
        )
    return figures


def learned() -> list[Figure]:
    """Vellum 4x on 1.5 MP, in both grades, against the bare ONNX Runtime session."""
    scale = machine()
    # On a machine whose products reach 180 GFLOP/s; elsewhere in proportion.
    share = scale.value / 180
    return [
        *_against_bare_session(VELLUM, least_megapixels=4 * share),
        *_against_bare_session(VELLUM_QUICK, least_megapixels=9 * share),
        scale,
    ]


def undo() -> list[Figure]:
    """What undoing the softness of the source adds to Vellum's 2x and 4x of 0.75 MP."""
    picture = Picture(photo_like(1000, 750).astype(np.float32) / np.float32(255))
    figures = []
    for factor in (2, 4):
        window = Window(0, 0, 1000 * factor, 750 * factor)
        plain, told = (
            Recipe(base=TrialSpec(upscaler="vellum", values=v), factor=factor) for v in (Values(), Values(blur=30))
        )
        without, with_it = best_of_each([partial(render, picture, recipe, window) for recipe in (plain, told)], 6)
        detail = f"{with_it:.3f} s against {without:.3f} s"
        figures.append(
            Figure(f"undo before Vellum {factor}x, time over without", with_it / without, 1.1, "x", True, detail)
        )
    return figures


def _against_bare_session(upscaler: Learned, least_megapixels: float) -> list[Figure]:
    pixels = photo_like(1500, 1000).astype(np.float32) / np.float32(255)
    picture = Picture(pixels)
    network = next(n for n in upscaler.networks if n.factor == 4)
    session = load_session(network.plain(Values()).path)
    tensor = np.ascontiguousarray(pixels.transpose(2, 0, 1))[np.newaxis]
    recipe = Recipe(base=TrialSpec(upscaler=upscaler.key), factor=4.0)
    whole = Window(0, 0, 6000, 4000)

    def export_order() -> None:
        for tile in whole.tiles(*plan(picture, recipe).tile):
            render(picture, recipe, tile)

    bare, ours = best_of_each([lambda: session.run(None, {"source": tensor}), export_order], 10)
    name = f"{upscaler.name} 4x of 1.5 MP"
    detail = f"{24 / ours:.2f} against {24 / bare:.2f} output MP/s"
    return [
        Figure(f"{name}, share of bare session", bare / ours, 0.9, "x", False, detail),
        Figure(name, 24 / ours, least_megapixels, "MP/s", False, "bound scaled to this machine"),
    ]


def machine() -> Figure:
    """What the machine's matrix products reach, to scale learned figures by."""
    a = np.random.default_rng(1).random((3000, 3000), dtype=np.float32)
    seconds = best_of(lambda: a @ a)
    return Figure("3000 x 3000 float products", 2 * 3000**3 / seconds / 1e9, None, "GFLOP/s", False, "for scale")
