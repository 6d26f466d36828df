"""Panels of lamps and buttons."""
