"""Checks of a home: each with a stated rule, in plain words, with a jump and where possible a mend."""
