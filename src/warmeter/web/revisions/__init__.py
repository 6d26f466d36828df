"""Revisions of a home: undo, redo, names, comparison, going back."""
