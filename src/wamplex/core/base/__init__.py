"""What everything else stands on: errors, progress, windows of pixels, frozen values."""
