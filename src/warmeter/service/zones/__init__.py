"""Which rooms go together, and which sensors count."""
