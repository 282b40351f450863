"""Vellum: the faithful learned upscaler, in two grades."""

from __future__ import annotations

from wamplex.core.upscale.upscalers.learned import Learned, Network

VELLUM = Learned(
    key="vellum",
    name="Vellum",
    purpose="Learned and faithful: for clean photographs and renders.",
    networks=tuple(Network(f"vellum-standard-{f}x.onnx") for f in (2, 3, 4)),
)
VELLUM_QUICK = Learned(
    key="vellum-quick",
    name="Vellum quick",
    purpose="A smaller Vellum: nearly as good in half the time.",
    networks=tuple(Network(f"vellum-quick-{f}x.onnx") for f in (2, 3, 4)),
)
