"""The home's own page: what matters, worst first."""
