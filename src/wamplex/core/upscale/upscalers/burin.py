"""Burin: for drawings, lettering, flat graphics and line work."""

from __future__ import annotations

from wamplex.core.upscale.upscalers.learned import Learned, Network

BURIN = Learned(
    key="burin",
    name="Burin",
    purpose="Learned, for drawings: lettering, flat graphics, line work, painted art.",
    networks=tuple(
        Network(f"burin-{f}x.onnx", restoration=f"burin-mending-{f}x.onnx", noisy=f"burin-noisy-{f}x.onnx")
        for f in (2, 3, 4)
    ),
    specific_values=("noise", "compression", "codec"),
    cleans=True,
)
