"""The timetable of a day: the strip, the table beside it, and what a change does."""
