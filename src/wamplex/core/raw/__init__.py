"""Raw files: the sensor's mosaic, its noise, and what is made of both."""
