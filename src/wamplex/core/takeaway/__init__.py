"""What is taken away from the bench: the proof sheet as a file, and the paper strip."""
