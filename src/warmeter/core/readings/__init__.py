"""From lines of a log to checked values on the clock."""
