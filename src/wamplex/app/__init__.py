"""The window: models hold state, views show it, workers keep slow work off the screen."""
