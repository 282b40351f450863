"""The values a project is made of: picture, source, recipe and its parts."""
