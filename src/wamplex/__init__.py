"""Wamplex enlarges pictures for print and lets you compare how."""

import os

# Matrix products on several threads are hardly faster here, but their threads wait for the next ones in a
# loop and keep a core from the networks meanwhile: what follows a network costs twice as much then. The
# number is read when NumPy is loaded, hence here.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

# Keeps ONNX Runtime from reporting to its maker, also in every process started from here. It reads this when
# it is loaded.
os.environ["ORT_DISABLE_TELEMETRY"] = "1"
