"""Makes the single folder that runs without Python: ``make bundle``."""
