"""Use cases: each loads, calls the core once, and saves. Here lie transactions and the clock."""
