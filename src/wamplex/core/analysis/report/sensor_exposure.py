"""What a raw file tells of its exposure: noise, lights that are cut off, how its tones are spread."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from wamplex.core.base.window import Window
from wamplex.core.model.development import Light
from wamplex.core.model.picture import Picture
from wamplex.core.model.raw_file import CameraColours, Exposure, RawFile, Triple
from wamplex.core.model.sensor_noise import SensorNoise
from wamplex.core.raw.camera_colours import illuminant_in_camera
from wamplex.core.raw.noise_estimation import stated_or_estimated_noise

BINS = 64
# Stops below white that the spread of tones is shown over.
STOPS = 12
_CUT_OFF = 0.995


@dataclass(frozen=True, eq=False)
class SensorExposure:
    """Exposure and noise of a raw file.

    Attributes
    ----------
    shot : what the camera noted
    gains, colours, light : the balance as shot, how the camera sees colours, and which light that comes to
    mosaic : whether there is a Bayer mosaic, so that Tessera can be used
    noise : of red, green and blue as recorded, full scale being 1
    stated : whether the file states it, so that it was not measured
    levels : from black to white
    clipped_fractions : share of red, green and blue pixels that are cut off
    spread : (3, 64) share of pixels of each colour in each of 64 bins of 12 stops, the last ending at white
    """

    shot: Exposure
    gains: Triple
    colours: CameraColours
    light: Light
    mosaic: bool
    noise: tuple[SensorNoise, SensorNoise, SensorNoise]
    stated: bool
    levels: float
    clipped_fractions: Triple
    spread: NDArray[np.float32]


def measure_sensor_exposure(picture: Picture) -> SensorExposure | None:
    """Measure exposure and noise of a raw file; None for other pictures."""
    raw = picture.raw
    if raw is None:
        return None
    cut_off, spread = _tones(raw)
    mosaic = raw.mosaic
    return SensorExposure(
        shot=raw.shot,
        gains=raw.gains,
        colours=raw.colours,
        light=illuminant_in_camera(raw.colours, raw.gains),
        mosaic=mosaic is not None,
        noise=stated_or_estimated_noise(raw),
        stated=raw.noise is not None,
        levels=65535.0 if mosaic is None else mosaic.white - min(mosaic.black),
        clipped_fractions=cut_off,
        spread=spread,
    )


def _tones(raw: RawFile) -> tuple[Triple, NDArray[np.float32]]:
    """Shares that are cut off, and the spread of each colour."""
    spread = np.zeros((3, BINS), np.float32)
    cut = []
    for channel, values in enumerate(_recorded(raw)):
        cut.append(float((values >= _CUT_OFF).mean()))
        stops = np.log2(np.maximum(values, 2.0**-STOPS)) + STOPS
        counts, _ = np.histogram(stops, bins=BINS, range=(0, STOPS))
        spread[channel] = counts / max(values.size, 1)
    return (cut[0], cut[1], cut[2]), spread


def _recorded(raw: RawFile) -> Iterator[NDArray[np.float32]]:
    """Recorded values of red, green and blue before white balance; white is 1."""
    if raw.mosaic is None:
        for channel in range(3):
            samples = raw.developed[::2, ::2, channel].astype(np.float32)
            yield samples / np.float32(raw.white * raw.gains[channel])
        return
    linear = raw.mosaic.linear(Window(0, 0, raw.mosaic.width, raw.mosaic.height))
    for channel in range(3):
        places = [place for place, pattern_channel in enumerate(raw.mosaic.pattern) if pattern_channel == channel]
        yield np.concatenate([linear[p // 2 :: 2, p % 2 :: 2].ravel() for p in places])
