"""What a machine's power log tells: standby, cycles, and a setting that holds."""
