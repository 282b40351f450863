"""What can be measured of a picture as it is: its noise and its compression."""
