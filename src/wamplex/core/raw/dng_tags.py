"""What a DNG says of its colours and noise (Adobe Digital Negative Specification 1.4, chapter 4 and 6)."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from wamplex.core.base.array_types import Matrix
from wamplex.core.model.sensor_noise import SensorNoise

_MAKE, _MODEL, _UNIQUE_MODEL = 271, 272, 50708
_MATRICES, _ILLUMINANTS = (50721, 50722), (50778, 50779)
_NOISE_PROFILE = 51041
_DENOMINATOR = 1_000_000
_ISO = 34855  # PhotographicSensitivity of Exif, which some DNGs have beside the rest
# Colour temperatures of the light sources of CIPA DC-008 (Exif 2.32), tag 37384.
LIGHT_SOURCES = {
    1: 5500.0,
    2: 4000.0,
    3: 2856.0,
    4: 5500.0,
    9: 5500.0,
    10: 6500.0,
    11: 7500.0,
    12: 6400.0,
    13: 5050.0,
    14: 4150.0,
    15: 3450.0,
    17: 2856.0,
    18: 4874.0,
    19: 6774.0,
    20: 5503.0,
    21: 6504.0,
    22: 7504.0,
    23: 5003.0,
    24: 3200.0,
}
_UNKNOWN_K = 6504.0
_OTHERS = 16


@dataclass(frozen=True)
class DngTags:
    """Attributes as those of `wamplex.core.model.raw_file.RawFile`."""

    camera: str = ""
    matrices: tuple[tuple[float, Matrix], ...] = ()
    noise: tuple[SensorNoise, SensorNoise, SensorNoise] | None = None
    iso: float = 0.0


def dng_tags(path: Path) -> DngTags:
    """Read them; what is missing, damaged or in a file of another kind is left out."""
    import tifffile  # takes a tenth of a second to load, which most starts need not

    try:
        with path.open("rb") as handle, tifffile.TiffFile(handle) as file:
            tags: dict[int, Any] = {}
            for page in (file.pages[0], *(file.pages[0].pages or ())[:_OTHERS]):
                for tag in page.tags:
                    tags.setdefault(tag.code, tag.value)
            return DngTags(_camera(tags), _matrices(tags), _noise(tags), _iso(tags))
    except Exception:  # of a dozen kinds; LibRaw has read the file and is what counts
        return DngTags()


def _camera(tags: dict[int, Any]) -> str:
    make, model = (str(tags.get(tag, "")).strip() for tag in (_MAKE, _MODEL))
    unique = str(tags.get(_UNIQUE_MODEL, "")).strip()
    if not model:
        return unique or make
    return model if model.lower().startswith(make.split(" ")[0].lower()) else f"{make} {model}"


def _iso(tags: dict[int, Any]) -> float:
    value = tags.get(_ISO, 0)
    value = value[0] if isinstance(value, tuple) and value else value
    return float(value) if isinstance(value, int | float) else 0.0


def _matrices(tags: dict[int, Any]) -> tuple[tuple[float, Matrix], ...]:
    matrices = []
    for tag, light in zip(_MATRICES, _ILLUMINANTS, strict=True):
        values = tags.get(tag)
        if values is None or len(values) != 18:
            continue
        value_pairs = np.asarray(values, np.float64).reshape(9, 2)
        if (value_pairs[:, 1] == 0).any():
            continue
        matrix = (value_pairs[:, 0] / value_pairs[:, 1]).reshape(3, 3)
        if abs(np.linalg.det(matrix)) > 1e-9:
            matrices.append((LIGHT_SOURCES.get(int(tags.get(light, 0)), _UNKNOWN_K), matrix))
    return tuple(sorted(matrices, key=lambda pair: pair[0]))


def _noise(tags: dict[int, Any]) -> tuple[SensorNoise, SensorNoise, SensorNoise] | None:
    values = tags.get(_NOISE_PROFILE)
    if isinstance(values, bytes):
        values = struct.unpack(f"<{len(values) // 8}d", values[: len(values) // 8 * 8])
    if values is None or len(values) not in (2, 6):
        return None
    value_pairs = np.asarray(values, np.float64).reshape(-1, 2)
    if not np.isfinite(value_pairs).all() or (value_pairs < 0).any():
        return None
    of_channels = value_pairs if len(value_pairs) == 3 else value_pairs[[0] * 3]
    red, green, blue = (SensorNoise(float(a), float(b)) for a, b in of_channels)
    return red, green, blue


def rationals(values: object) -> list[int]:
    """Numbers as numerators and denominators, for fields of type (S)RATIONAL."""
    numbers = np.asarray(values, np.float64).ravel()
    return [n for value in numbers for n in (round(float(value) * _DENOMINATOR), _DENOMINATOR)]
