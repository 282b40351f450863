"""Result pixels for the screen."""
