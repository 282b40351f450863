"""Vellum: the faithful learned upscaler, in two grades."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network
from wamplex.core.upscale.network import TILE_PX

# 3x3 convolutions from end to end: entry, two for each of six (or four) blocks, head.
STANDARD_HALO = 14
_QUICK_HALO = 10

VELLUM = Learned(
    key="vellum",
    name="Vellum",
    purpose="Learned and faithful: for clean photographs and renders.",
    networks=tuple(Network(f"vellum-standard-{f}x.onnx", f, STANDARD_HALO) for f in (2, 3, 4)),
)
VELLUM_QUICK = Learned(
    key="vellum-quick",
    name="Vellum quick",
    purpose="A smaller Vellum: nearly as good in half the time.",
    networks=tuple(Network(f"vellum-quick-{f}x.onnx", f, _QUICK_HALO) for f in (2, 3, 4)),
    tile_px=TILE_PX * 3 // 2,  # its layers have two thirds of the channels
)
