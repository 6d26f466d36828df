"""Rules, read and edited as sentences."""
