"""Reading in a log: choose, map, see what would be taken and why not, take, take back."""
