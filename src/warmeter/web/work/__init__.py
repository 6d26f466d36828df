"""Tasks, checklists and photos."""
