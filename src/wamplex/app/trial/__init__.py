"""The third step: upscalers compared at the same places."""
