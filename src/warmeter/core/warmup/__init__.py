"""When heating must start, and whether a setback pays."""
