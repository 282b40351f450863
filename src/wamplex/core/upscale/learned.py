"""Learned upscalers: networks with native factors, chained to reach any factor."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from wamplex.core.upscale.interface import Kind
from wamplex.core.upscale.kernels import LANCZOS3
from wamplex.core.upscale.network import NetworkStage
from wamplex.core.upscale.resample import ResampleStage
from wamplex.core.upscale.stage import Stage

MODELS_DIR = Path(__file__).parents[2] / "models"


@dataclass(frozen=True)
class Network:
    """One ONNX file.

    Attributes
    ----------
    factor : native enlargement
    halo : source pixels on each side that influence an output pixel
    """

    file: str
    factor: int
    halo: int


@dataclass(frozen=True)
class Learned:
    """Upscaler made of one network per native factor."""

    key: str
    name: str
    purpose: str
    networks: tuple[Network, ...]
    kind: Kind = "learned"

    def passes(self, factor: float) -> tuple[Network, ...]:
        """The networks to run in turn: the cheapest chain that reaches ``factor``, none when shrinking.

        One pass where a native factor reaches far enough, else two; their product is the
        smallest that is at least ``factor``, since what goes beyond is thrown away again.
        """
        if factor <= 1.0:
            return ()
        single = [(n,) for n in self.networks if n.factor >= factor]
        if single:
            return min(single, key=lambda chain: chain[0].factor)
        # The larger network first: it sees real source pixels.
        double = [(a, b) for a in self.networks for b in self.networks if a.factor >= b.factor]
        reaching = [chain for chain in double if chain[0].factor * chain[1].factor >= factor]
        return min(reaching, key=lambda chain: chain[0].factor * chain[1].factor)

    def chain(self, source: Stage, width: int, height: int) -> Stage:
        """Network passes, then an antialiased Lanczos 3 resample to the exact size."""
        factor = max(width / source.width, height / source.height)
        stage = source
        for network in self.passes(factor):
            stage = NetworkStage(stage, MODELS_DIR / network.file, network.factor, network.halo)
        if (stage.width, stage.height) != (width, height):
            stage = ResampleStage(stage, width, height, LANCZOS3)
        return stage

    def steps(self, factor: float) -> str:
        """In words, what is done."""
        passes = [n.factor for n in self.passes(factor)]
        if not passes:
            return "shrunk with Lanczos 3: nothing to enlarge"
        reached = 1
        for native in passes:
            reached *= native
        words = "one pass of " if len(passes) == 1 else ""
        words += " then ".join(f"{native}×" for native in passes)
        return words if abs(reached - factor) < 1e-9 else f"{words}, then shrunk to {factor:.4g}×"
