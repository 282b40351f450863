"""The work itself: pictures, upscalers, files. Nothing here knows about windows."""
