"""Finding things by words."""
