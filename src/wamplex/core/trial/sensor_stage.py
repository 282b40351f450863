"""The source stage of a raw file, with the sensor data behind it."""

from __future__ import annotations

from wamplex.core.geometry.framing import Framing
from wamplex.core.model.picture import Picture
from wamplex.core.raw.developer import Developer
from wamplex.core.raw.noise_estimation import stated_or_estimated_noise
from wamplex.core.upscale.stages.stage import SourceStage
from wamplex.core.upscale.upscalers.tessera import Sensor, SensorStage


def sensor_source_stage(picture: Picture, framed: Picture, framing: Framing) -> SourceStage:
    """First stage of every upscaler: framed pixels, with sensor data where there are any.

    Parameters
    ----------
    picture : upright and whole
    framed : the same as the framing leaves it; not straightened, and then not cropped
    """
    level = framing.straighten_deg == 0
    crop = framing.window(picture.width, picture.height)
    origin = (float(crop.x), float(crop.y)) if level else (0.0, 0.0)
    sensor = _sensor(picture, framing)
    return SourceStage(framed, origin) if sensor is None else SensorStage(framed, origin, sensor)


def _sensor(picture: Picture, framing: Framing) -> Sensor | None:
    raw = picture.raw
    if raw is None or raw.mosaic is None:
        return None
    turns = (raw.turns + framing.turns) % 4
    level = framing.straighten_deg == 0
    return Sensor(
        mosaic=raw.mosaic,
        gains=raw.gains,
        noise=stated_or_estimated_noise(raw),
        exposure=2.0**picture.development.exposure_ev,
        develop=Developer.of(raw, picture.development).developed,
        arrangement=Framing(turns=turns, flipped=framing.flipped),  # type: ignore[arg-type]
        crop=framing.window(picture.width, picture.height) if level else None,
    )
