"""Warmeter: measure a home, write its timetable, time the warm-up, keep the record."""

__version__ = "0.1.0"
