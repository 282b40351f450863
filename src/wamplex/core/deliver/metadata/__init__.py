"""What a file says besides its pixels: EXIF, IPTC and XMP, and which of it is passed on."""
