"""Figures with their working: how each number was found."""
