"""What gives heat or cold to a room, and how much of it at which temperatures."""
