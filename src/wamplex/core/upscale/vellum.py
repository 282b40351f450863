"""Vellum: the faithful learned upscaler."""

from __future__ import annotations

from wamplex.core.upscale.learned import Learned, Network

_HALO = 14  # 3x3 convolutions from end to end: entry, six blocks of two, head

VELLUM = Learned(
    key="vellum",
    name="Vellum",
    purpose="Learned and faithful: for clean photographs and renders.",
    networks=tuple(Network(f"vellum-standard-{factor}x.onnx", factor, _HALO) for factor in (2, 3, 4)),
)
