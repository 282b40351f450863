"""Lossy compression: from file headers, and from pixels."""
