"""How rooms warm and cool: networks, simulation, and what a log teaches about them."""
