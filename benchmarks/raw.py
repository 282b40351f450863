"""Tessera against the bare ONNX Runtime session, and what measuring the sensor's noise takes."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from benchmarks.rendering import machine, photo_like
from benchmarks.table import Figure, best_of, best_of_each
from wamplex.core.base.window import Window
from wamplex.core.intake.read import read_picture
from wamplex.core.model.picture import Picture
from wamplex.core.model.recipe import Recipe
from wamplex.core.model.trial_spec import TrialSpec
from wamplex.core.raw.mosaic_dng import MosaicTags, write_mosaic
from wamplex.core.raw.noise_estimation import estimate_noise
from wamplex.core.render.plan import plan
from wamplex.core.render.render import render
from wamplex.core.upscale.networks.sessions import load_session
from wamplex.core.upscale.upscalers.tessera import tessera_file

_SENSOR = (1500, 1000)


def raw_files() -> list[Figure]:
    """Tessera at 4x and 1x of 1.5 MP, as an export asks for it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "mosaic.dng"
        levels = 1000 + photo_like(*_SENSOR)[..., 1].astype(np.uint16) * 55
        write_mosaic(path, levels, MosaicTags(np.eye(3), (0.5, 1.0, 0.6)))
        picture = read_picture(path)
    assert picture.raw is not None
    assert picture.raw.mosaic is not None
    mosaic = picture.raw.mosaic
    scale = machine()
    seconds = best_of(lambda: estimate_noise(mosaic))
    return [
        # On a machine whose products reach 180 GFLOP/s; elsewhere in proportion.
        *_against_bare_session(picture, 4, 4 * scale.value / 180),
        *_against_bare_session(picture, 1, None),
        Figure("noise of a mosaic of 1.5 MP, measured", seconds, None, "s", True, ""),
        scale,
    ]


def _against_bare_session(picture: Picture, factor: int, least_mp_s: float | None) -> list[Figure]:
    network = tessera_file(factor)
    session = load_session(network.path, network.digest)
    cells = (_SENSOR[1] // 2, _SENSOR[0] // 2)
    tensor = np.full((1, network.inputs, *cells), 0.3, np.float32)
    recipe = Recipe(base=TrialSpec(upscaler="tessera"), factor=factor)
    whole = Window(0, 0, _SENSOR[0] * factor, _SENSOR[1] * factor)

    def export_order() -> None:
        for tile in whole.tiles(*plan(picture, recipe).tile):
            render(picture, recipe, tile)

    bare, ours = best_of_each([lambda: session.run(None, {"source": tensor}), export_order], 4)
    name, megapixels = f"Tessera {factor}x of 1.5 MP", whole.width * whole.height / 1e6
    detail = f"{megapixels / ours:.2f} against {megapixels / bare:.2f} output MP/s"
    return [
        Figure(f"{name}, share of bare session", bare / ours, None, "x", False, detail),
        Figure(name, megapixels / ours, least_mp_s, "MP/s", False, "bound scaled to this machine"),
    ]
