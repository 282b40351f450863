"""Pictures whose history is drawn by chance: chains of steps in any order, and what upscalers gain on them."""
