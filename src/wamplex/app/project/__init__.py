"""The open project: saved, opened, recovered."""
