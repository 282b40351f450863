"""Recipes under names, and applying one picture's recipe to others."""
