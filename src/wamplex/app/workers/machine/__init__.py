"""Workers that ask the machine: providers, screen profiles."""
