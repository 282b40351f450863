"""Measuring whole pictures for the condition sheet, in a process of its own."""
