"""What goes wrong around the program: kills, failing disks, other programs, odd surroundings, floods."""
