"""Starting and ending the application."""
