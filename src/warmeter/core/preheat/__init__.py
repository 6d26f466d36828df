"""Rooms warmed or cooled ahead: what a plan may do with them, and setpoints that a device holds."""
