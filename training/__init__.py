"""How the learned upscalers are made; the application never imports this package."""
