"""What is suggested for a picture: an upscaler and values, each with its reason and its likely gain."""
