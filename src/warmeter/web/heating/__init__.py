"""Heaters and sources of the survey."""
