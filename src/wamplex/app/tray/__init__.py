"""The pictures of the project: what is known, what is decided, and the list beside the steps."""
