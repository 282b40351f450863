"""Many pictures and long work: orders, queue, folder watch, projects, other programs."""
