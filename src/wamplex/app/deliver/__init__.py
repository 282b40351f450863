"""The fourth step: files, and the jobs that make them."""
