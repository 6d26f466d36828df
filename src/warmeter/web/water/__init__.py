"""Points of water, what shuts and senses them, sums."""
