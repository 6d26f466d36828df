"""Edits of a home: pure functions from a home to the changed home."""
