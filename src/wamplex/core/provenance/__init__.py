"""Where a file comes from: the recipe inside it, and what it was made of."""
