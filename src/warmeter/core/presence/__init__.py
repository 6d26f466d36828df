"""Whether somebody is there: persons, the home and its rooms, by witnesses that are silent, late and wrong."""
