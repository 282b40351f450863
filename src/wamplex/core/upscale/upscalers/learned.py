"""Learned upscalers: networks with native factors, chained to reach any factor."""

from __future__ import annotations

import math
from dataclasses import dataclass

from wamplex.core.geometry.size import Size
from wamplex.core.model.upscale_values import COMMON_VALUES, UNDONE_VALUES, Values
from wamplex.core.model.value_table import ValueName
from wamplex.core.upscale.networks.chain_table import measured_chain
from wamplex.core.upscale.networks.manifest import NetworkFile, network_file
from wamplex.core.upscale.networks.network_stage import NetworkStage
from wamplex.core.upscale.stages.deconvolution import Deconvolution, DeconvolutionStage
from wamplex.core.upscale.stages.kernels import LANCZOS3, Kernel
from wamplex.core.upscale.stages.resample import ResampleStage
from wamplex.core.upscale.stages.source_blend import SourceBlendStage
from wamplex.core.upscale.stages.stage import Stage
from wamplex.core.upscale.stages.tiling import band_shape, tile_shape
from wamplex.core.upscale.upscalers.interface import UpscalerKind
from wamplex.core.upscale.upscalers.native_factor import resampled_text

# What the first pass has done.
_DONE = {"noise": 0.0, "compression": 0.0, "blur": 0.0}
# Noise or compression from which on the cleaning network runs alone.
_FULL_CLEANUP = 10.0
# Noise up to which what cleans in general runs alone, and from which on what knows much noise does.
_SOME_NOISE, _MUCH_NOISE = 20.0, 30.0
# Softness up to which the filter before the clean network does more than a network that sees both; beyond it
# less. Measured at 4x: +2.33 against +2.19 dB at 0.4 to 0.7 px, +1.91 against +2.12 at 1.2 px.
VERY_SOFT = 45.0


@dataclass(frozen=True)
class Network:
    """The files of one native factor.

    Attributes
    ----------
    file : the faithful network
    textured : the same network that makes texture of grain as well, run where Invention asks for it
    restoration : a network that cleans, run where there is something to clean
    noisy : a network that cleans, run in its place where there is much noise
    """

    file: str
    textured: str | None = None
    restoration: str | None = None
    noisy: str | None = None

    @property
    def factor(self) -> int:
        """Native enlargement."""
        return network_file(self.file).factor

    def restoration_weight(self, values: Values) -> float:
        """How much of the result is the mending network's.

        A little cleanup lies between both results, so that 0 is no sudden change. Blending results is better
        than blending weights (by 0.08 to 0.12 dB at 4x on noise of 1 to 3 levels and JPEG 93 to 96), and
        than either network alone.
        """
        if self.restoration is None:
            return 0.0
        asked = max(values.noise, values.compression, values.blur - VERY_SOFT)
        return min(max(asked, 0.0) / _FULL_CLEANUP, 1.0)

    def denoising_weight(self, values: Values) -> float:
        """How much of what is cleaned is due to the network for much noise."""
        if self.noisy is None:
            return 0.0
        return min(max(values.noise - _SOME_NOISE, 0.0) / (_MUCH_NOISE - _SOME_NOISE), 1.0)

    def widest(self, values: Values) -> NetworkFile:
        """The active network with the largest receptive field, which also takes the most memory."""
        if self.noisy is not None and self.denoising_weight(values) > 0:
            return network_file(self.noisy)
        if self.restoration is not None and self.restoration_weight(values) > 0:
            return network_file(self.restoration)
        return network_file(self._plain(values))

    def plain(self, values: Values) -> NetworkFile:
        """Network for clean pictures."""
        return network_file(self._plain(values))

    def _plain(self, values: Values) -> str:
        return self.textured if self.textured is not None and values.texture_strength > 0 else self.file

    def noise_gain(self, values: Values) -> float:
        """Of the grain that enters.

        The texture is proportional to it, so that this is network interpolation (Wang et al. 2018): the
        weights of the texture lie between nothing, as in the faithful network, and what was trained.
        """
        return values.texture_strength / 100 if self.textured else 0.0


@dataclass(frozen=True)
class Learned:
    """Upscaler made of one network per native factor.

    Attributes
    ----------
    cleans : whether there are mending networks
    """

    key: str
    name: str
    purpose: str
    networks: tuple[Network, ...]
    specific_values: tuple[ValueName, ...] = ()
    cleans: bool = False
    kind: UpscalerKind = "learned"
    sees_sensor: bool = False
    kernel: Kernel | None = LANCZOS3

    @property
    def values(self) -> tuple[ValueName, ...]:
        """The values it heeds."""
        return (*self.specific_values, *UNDONE_VALUES, "crispness", "self_ensemble", *COMMON_VALUES)

    def passes(self, factor: float, values: Values | None = None) -> tuple[Network, ...]:
        """The networks to run in turn: the chain that was measured best, none when only shrinking.

        Without a measurement, one pass where a native factor reaches far enough, else two; their
        product is the smallest that is at least ``factor``, since what goes beyond is thrown away.
        """
        values = values or Values()
        if factor <= 1.0:
            cleaning = self.cleans and (values.noise > 0 or values.compression > 0)
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
        deconvolution = Deconvolution.of(values)
        stage = source if deconvolution is None else DeconvolutionStage(source, deconvolution)
        for number, network in enumerate(passes):
            # What the first pass cleaned is clean: the second only enlarges.
            stage = _pass(stage, source, network, values if number == 0 else values.replace(**_DONE))
        if (stage.width, stage.height) != (width, height):
            stage = ResampleStage(stage, width, height, LANCZOS3)
        return stage

    def tile(self, size: Size, values: Values, channels: int) -> tuple[int, int]:
        """Tile size of the first network."""
        factor = max(size.width_px / size.source_width, size.height_px / size.source_height)
        passes = self.passes(factor, values)
        if not passes:
            return band_shape(size.width_px, channels)
        first = passes[0].widest(values)
        columns, rows = tile_shape(size.source_width, size.source_height, first.halo, first.tile_px)
        return math.ceil(columns * factor), math.ceil(rows * factor)

    def reach(self, factor: float, values: Values) -> float:
        """Largest factor of its passes."""
        return float(math.prod(network.factor for network in self.passes(factor, values)))

    def steps(self, factor: float, values: Values | None = None) -> str:
        """In words, what is done."""
        passes = [n.factor for n in self.passes(factor, values)]
        if not passes:
            return "nothing to enlarge" if factor == 1.0 else "shrunk with Lanczos 3: nothing to enlarge"
        reached = math.prod(passes)
        text = "one pass of " if len(passes) == 1 else ""
        text += " then ".join(f"{native}×" for native in passes)
        return resampled_text(text, reached, factor)


def _pass(stage: Stage, source: Stage, network: Network, values: Values) -> Stage:
    """One pass. A network for restoration also gets the source before deblurring, and conditioning planes."""
    weight = network.restoration_weight(values)
    plain = NetworkStage(
        stage,
        network.plain(values),
        noise_gain=network.noise_gain(values),
        protected=values.protected,
        self_ensemble=values.self_ensemble,
    )
    if network.restoration is None or weight == 0:
        return plain
    mended = _cleaned(stage, source, network.restoration, values)
    noisy = network.denoising_weight(values)
    if network.noisy is not None and noisy > 0:
        by_noisy = _cleaned(stage, source, network.noisy, values)
        mended = by_noisy if noisy == 1 else SourceBlendStage(by_noisy, mended, 1 - noisy)
    return mended if weight == 1 else SourceBlendStage(mended, plain, 1 - weight)


def _cleaned(stage: Stage, source: Stage, file: str, values: Values) -> Stage:
    planes = _planes(values)
    return NetworkStage(stage, network_file(file), guide=source, planes=planes, self_ensemble=values.self_ensemble)


def _planes(values: Values) -> tuple[float, ...]:
    """Conditioning planes of a restoration network, in the order of its input channels."""
    return values.noise / 100, values.compression / 100, values.blur / 100, float(values.codec == "webp")
