"""Messages of devices: which topics they come under, what they say, and what of it is stored."""
