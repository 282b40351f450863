"""Writes ``manifest.json`` beside the networks: what a program must know to run each of them exactly."""

from __future__ import annotations

import hashlib
import json
import subprocess
import sys
from pathlib import Path

from training.families import FAMILIES, Family
from training.shipped import model_path

NAME = "manifest.json"
_SIDES_PX = (256, 640)
_PEAK = """
import resource, sys, numpy, onnxruntime
options = onnxruntime.SessionOptions()
options.enable_mem_pattern = False
session = onnxruntime.InferenceSession(sys.argv[1], options, providers=["CPUExecutionProvider"])
tensor = numpy.zeros((1, int(sys.argv[2]), int(sys.argv[3]), int(sys.argv[3])), numpy.float32)
session.run(None, {"source": tensor})
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024)
"""


def write_manifest(models: Path) -> None:
    """One entry for each network file that is there."""
    entries = {}
    for family in FAMILIES.values():
        for factor in family.factors:
            path = model_path(models, family.name, factor)
            if path.exists():
                entries[path.name] = _entry(path, family, factor)
                print(path.name, entries[path.name], flush=True)
    (models / NAME).write_text(json.dumps({"networks": entries}, indent=1) + "\n")


def _entry(path: Path, family: Family, factor: int) -> dict[str, object]:
    return {
        "factor": factor,
        "halo": family.halo(factor),
        "cells": family.cells,
        "inputs": family.planes(factor),
        # What is a pixel to it may be a cell of four.
        "bytes_per_px": _bytes_per_px(path, family.planes(factor)) // (4 if family.mosaic else 1),
        "digest": hashlib.sha256(path.read_bytes()).hexdigest(),
    }


def _bytes_per_px(path: Path, inputs: int) -> int:
    """What a source pixel takes at the peak of a run, input and result included."""
    small, large = (_peak_bytes(path, inputs, side) for side in _SIDES_PX)
    return round((large - small) / (_SIDES_PX[1] ** 2 - _SIDES_PX[0] ** 2))


def _peak_bytes(path: Path, inputs: int, side: int) -> int:
    command = [sys.executable, "-c", _PEAK, str(path), str(inputs), str(side)]
    return int(subprocess.run(command, capture_output=True, text=True, check=True).stdout)
