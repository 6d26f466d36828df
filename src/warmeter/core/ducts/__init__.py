"""Air on ducts: which vent gets how much, how many notches each is shut, all rooms on one fan, furnace and coil."""
