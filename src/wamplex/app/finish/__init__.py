"""The Finish step: mixing, faces, surface."""
