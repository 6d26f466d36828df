"""The survey: rooms, heaters, what their losses are estimated to be, and their logs."""
