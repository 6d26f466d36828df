"""Rules to start from, filled from a home's devices."""
