"""The sun on windows, and blinds."""
