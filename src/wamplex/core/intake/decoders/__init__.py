"""One module for each way to decode a file; all give an `Opened`."""
