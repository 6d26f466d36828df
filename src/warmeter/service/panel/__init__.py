"""Panels by their logs, and tried on a simulated one."""
