"""Noise of a sensor: variance = shot x signal + read."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class SensorNoise:
    """Noise of one channel (Foi, Trimeche, Katkovnik and Egiazarian 2008); full scale is 1.

    Attributes
    ----------
    shot : variance for each unit of signal, from the light itself
    read : variance without light, from the electronics
    """

    shot: float = 0.0
    read: float = 0.0

    def amplified(self, gain: float) -> SensorNoise:
        """The noise after the signal has been multiplied by ``gain``."""
        return SensorNoise(self.shot * gain, self.read * gain * gain)

    def deviation(self, signal: float) -> float:
        """Standard deviation at a signal in 0..1."""
        return float(max(self.shot * signal + self.read, 0.0) ** 0.5)
