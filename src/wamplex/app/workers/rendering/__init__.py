"""Workers that render and measure pixels."""
