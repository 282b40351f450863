"""Learned upscalers: networks with native factors, chained to reach any factor."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

from wamplex.core.upscale.chains import measured_chain
from wamplex.core.upscale.interface import Kind
from wamplex.core.upscale.kernels import LANCZOS3, Kernel
from wamplex.core.upscale.network import TILE_PX, NetworkStage
from wamplex.core.upscale.resample import ResampleStage
from wamplex.core.upscale.sessions import Model
from wamplex.core.upscale.stage import Stage
from wamplex.core.upscale.tiling import band_shape, tile_shape
from wamplex.core.upscale.undo import Undo, UndoStage
from wamplex.core.upscale.values import COMMON_VALUES, UNDONE_VALUES, ValueName, Values

MODELS_DIR = Path(__file__).parents[2] / "models"
# What the first pass has done.
_DONE = {"noise": 0.0, "blocks": 0.0, "softness": 0.0}
# Noise or compression from which on the cleaning network runs unblended.
_FULL_CLEANUP = 10.0
# Softness up to which the filter before the clean network does more than a network that sees both; beyond it
# less. Measured at 4x: +2.33 against +2.19 dB at 0.4 to 0.7 px, +1.91 against +2.12 at 1.2 px.
VERY_SOFT = 45.0


@dataclass(frozen=True)
class Network:
    """One ONNX file.

    Attributes
    ----------
    factor : native enlargement
    halo : source pixels on each side that influence an output pixel
    cells : side in source pixels of the squares that it works on
    textured : file of the same network that makes texture of grain as well, run where Invention asks for it
    clean : file of the faithful network this one grew from, which a picture that needs no cleanup is left to
    """

    file: str
    factor: int
    halo: int
    cells: int = 1
    textured: str | None = None
    clean: str | None = None

    def model(self, values: Values) -> Model:
        """What is run under these values."""
        if self.clean is not None:
            # In tenths: a little cleanup lies between the two networks, so that 0 is no sudden change.
            asked = max(values.noise, values.blocks, values.softness - VERY_SOFT)
            share = round(10 * min(asked / _FULL_CLEANUP, 1)) / 10
            return Model(MODELS_DIR / self.clean, MODELS_DIR / self.file, share)
        if self.textured is not None and values.invention > 0:
            return Model(MODELS_DIR / self.textured)
        return Model(MODELS_DIR / self.file)

    def loudness(self, values: Values) -> float:
        """Of the grain that enters.

        The texture is proportional to it, so that this is network interpolation (Wang et al. 2018): the
        weights of the texture lie between nothing, as in the faithful network, and what was trained.
        """
        return values.invention / 100 if self.textured else 0.0


@dataclass(frozen=True)
class Learned:
    """Upscaler made of one network per native factor.

    Attributes
    ----------
    cleans : whether the networks see the source beside the undone picture, and are told the values
    tile_px : most source pixels that a network is given at a time
    """

    key: str
    name: str
    purpose: str
    networks: tuple[Network, ...]
    own_values: tuple[ValueName, ...] = ()
    cleans: bool = False
    tile_px: int = TILE_PX
    kind: Kind = "learned"
    kernel: Kernel | None = LANCZOS3

    @property
    def values(self) -> tuple[ValueName, ...]:
        """The values it heeds."""
        return (*self.own_values, *UNDONE_VALUES, "careful", *COMMON_VALUES)

    def passes(self, factor: float, values: Values | None = None) -> tuple[Network, ...]:
        """The networks to run in turn: the chain that was measured best, none when only shrinking.

        Without a measurement, one pass where a native factor reaches far enough, else two; their
        product is the smallest that is at least ``factor``, since what goes beyond is thrown away.
        """
        values = values or Values()
        if factor <= 1.0:
            cleaning = self.cleans and (values.noise > 0 or values.blocks > 0)
            return (min(self.networks, key=lambda n: n.factor),) if cleaning else ()
        measured = measured_chain(self.key, factor)
        if measured is not None:
            by_factor = {n.factor: n for n in self.networks}
            return tuple(by_factor[f] for f in measured)
        single = [(n,) for n in self.networks if n.factor >= factor]
        if single:
            return min(single, key=lambda chain: chain[0].factor)
        # The larger network first: it sees real source pixels.
        double = [(a, b) for a in self.networks for b in self.networks if a.factor >= b.factor]
        reaching = [chain for chain in double if chain[0].factor * chain[1].factor >= factor]
        if not reaching:  # a picture that is shrunk first may be enlarged further than two passes reach
            return max(double, key=lambda chain: chain[0].factor * chain[1].factor)
        return min(reaching, key=lambda chain: chain[0].factor * chain[1].factor)

    def chain(self, source: Stage, width: int, height: int, values: Values) -> Stage:
        """Network passes, then an antialiased Lanczos 3 resample to the exact size."""
        factor = max(width / source.width, height / source.height)
        return self.chain_through(self.passes(factor, values), source, width, height, values)

    def chain_through(
        self, passes: tuple[Network, ...], source: Stage, width: int, height: int, values: Values
    ) -> Stage:
        """The same through given passes, which may overshoot or fall short."""
        undo = Undo.of(values)
        stage = source if undo is None else UndoStage(source, undo)
        for number, network in enumerate(passes):
            # What the first pass cleaned is clean: the second only enlarges.
            told = values if number == 0 else values.having(**_DONE)
            model = network.model(told)
            # A picture that needs no cleanup is left to a network that knows neither planes nor cells.
            left_clean = network.clean is not None and model.share == 0
            stage = NetworkStage(
                stage,
                model,
                network.factor,
                network.halo,
                cells=1 if left_clean else network.cells,
                beside=source if self.cleans and not left_clean else None,
                planes=_planes(told) if self.cleans and not left_clean else (),
                loudness=network.loudness(told),
                spared=told.spared,
                careful=values.careful,
                tile_px=self.tile_px,
            )
        if (stage.width, stage.height) != (width, height):
            stage = ResampleStage(stage, width, height, LANCZOS3)
        return stage

    def tile(
        self,
        source_width: int,
        source_height: int,
        width: int,
        height: int,
        values: Values,
        channels: int,
    ) -> tuple[int, int]:
        """What the first network is given at a time."""
        factor = max(width / source_width, height / source_height)
        passes = self.passes(factor, values)
        if not passes:
            return band_shape(width, channels)
        columns, rows = tile_shape(source_width, source_height, passes[0].halo, self.tile_px)
        return math.ceil(columns * factor), math.ceil(rows * factor)

    def reach(self, factor: float, values: Values) -> float:
        """As far as its passes go."""
        return float(math.prod(network.factor for network in self.passes(factor, values)))

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        passes = [n.factor for n in self.passes(factor, values)]
        if not passes:
            return "nothing to enlarge" if factor == 1.0 else "shrunk with Lanczos 3: nothing to enlarge"
        reached = math.prod(passes)
        words = "one pass of " if len(passes) == 1 else ""
        words += " then ".join(f"{native}×" for native in passes)
        if abs(reached - factor) < 1e-9:
            return words
        return f"{words}, then {'shrunk' if reached > factor else 'resampled'} to {factor:.4g}×"


def _planes(values: Values) -> tuple[float, ...]:
    """What a network that cleans is told, in the order of its input channels."""
    return values.noise / 100, values.blocks / 100, values.softness / 100, float(values.codec == "webp")
