"""What is asked of many pictures, resolved into a recipe for each."""
