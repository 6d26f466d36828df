"""Rooms on ducts, worked out for the page: once for each revision of a home."""
