"""People and rooms in use, from a home's readings."""
