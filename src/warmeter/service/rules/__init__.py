"""Rules over the home's logs: replayed, tuned, their saving, their file."""
