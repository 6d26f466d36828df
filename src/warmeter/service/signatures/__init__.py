"""What machines, the meter and the warm water did by their logs."""
