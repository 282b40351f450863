"""Mender: removes noise and repairs compression while it enlarges."""

from __future__ import annotations

from wamplex.core.upscale.upscalers.learned import Learned, Network

MENDER = Learned(
    key="mender",
    name="Mender",
    purpose="Learned, with cleanup: for compressed, noisy, soft or old pictures.",
    networks=tuple(Network(f"vellum-standard-{f}x.onnx", restoration=f"mender-{f}x.onnx") for f in (2, 3, 4)),
    specific_values=("noise", "compression", "codec"),
    cleans=True,
)
