"""A home as a whole: made, edited, undone, brought in and out, kept and taken away."""
