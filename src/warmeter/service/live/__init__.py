"""Homes that are linked live: what comes in, what is asked of devices, who is told."""
