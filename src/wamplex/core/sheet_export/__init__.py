"""The proof sheet and the paper strip as files."""
