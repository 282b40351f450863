"""What can be measured of a picture."""
