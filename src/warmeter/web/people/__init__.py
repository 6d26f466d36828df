"""People: who is where, what bears witness to it, rooms in use."""
