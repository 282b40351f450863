"""What is done between the stamped trial and the print: mixing, tone, sharpening, grain."""
