"""How the learned upscalers are made; the application never imports this package."""

import os

# Keeps ONNX Runtime from reporting to its maker. It reads this when it is loaded.
os.environ["ORT_DISABLE_TELEMETRY"] = "1"
