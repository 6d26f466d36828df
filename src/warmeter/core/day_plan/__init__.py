"""The plan of the day: when runs, charging and stores draw, at least cost, and what holds them."""
