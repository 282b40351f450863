"""Work that is done in processes of its own: what takes time, memory or the program down stays there."""
