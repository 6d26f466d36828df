"""From change points to the level in force and the setpoint series."""
