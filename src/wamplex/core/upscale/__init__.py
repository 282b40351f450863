"""Ways to enlarge: the stages they are built from, and the registry that lists them."""
