"""Pages of radio sensors: a capture looked at, one of its senders taken in."""
