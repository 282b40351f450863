"""One trial: the registry of upscalers, and framing, enlarging and developing put together."""
