"""What scripts call: the functions behind ``import wamplex``."""
