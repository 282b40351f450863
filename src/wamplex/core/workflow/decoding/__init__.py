"""Decoding in a process of its own: a file that crashes a decoder costs one picture."""
