"""Who decides what a target is asked to do: one arbiter for every kind of claim."""
