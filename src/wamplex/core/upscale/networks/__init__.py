"""Running the trained networks: sessions, providers, tiles, checks of their output."""
