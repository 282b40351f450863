"""Kestrel: a network that draws one plausible picture instead of the mean of all."""
