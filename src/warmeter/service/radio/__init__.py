"""Captures of radio sensors: looked at as they were sent in, and one sender of them taken for a device."""
