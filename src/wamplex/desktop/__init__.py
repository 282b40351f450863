"""What a desktop needs to know of the program: entry, icon, kinds of file, manual, completion of commands."""
