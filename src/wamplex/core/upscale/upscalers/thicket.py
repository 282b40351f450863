"""Thicket: adds plausible texture; Invention says how much."""

from __future__ import annotations

from wamplex.core.upscale.upscalers.learned import Learned, Network

THICKET = Learned(
    key="thicket",
    name="Thicket",
    purpose="Learned, invents texture: hair, grass, bark, cloth.",
    networks=tuple(Network(f"vellum-standard-{f}x.onnx", textured=f"thicket-{f}x.onnx") for f in (2, 4)),
    specific_values=("texture_strength", "protected"),
)
