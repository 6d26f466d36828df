"""Long work: queued, run in a process of its own, stopped, taken up again."""
