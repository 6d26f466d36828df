"""Rooms learnt from logs, and their lead times."""
