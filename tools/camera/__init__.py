"""A simulated camera: scene-linear light to a raw file whose noise, colours and levels are known."""
