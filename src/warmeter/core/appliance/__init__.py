"""A machine of the home with its log."""
