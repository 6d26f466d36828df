"""Blinds and sun on the days of a log."""
