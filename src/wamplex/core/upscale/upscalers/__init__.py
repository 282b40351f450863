"""One file for each upscaler, behind one interface."""
