"""Reads every test picture of general libraries, and compares what is read with a second decoder."""
