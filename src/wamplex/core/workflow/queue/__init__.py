"""The durable queue of files to be made."""
