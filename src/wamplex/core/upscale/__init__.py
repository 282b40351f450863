"""From source pixels to enlarged pixels: stages, networks, upscalers."""
