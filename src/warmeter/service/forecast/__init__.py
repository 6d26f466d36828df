"""What a home will do: inputs read, days worked out once and kept."""
