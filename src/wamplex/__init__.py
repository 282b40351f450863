"""Wamplex enlarges pictures for print and lets you compare how."""
