"""Simulated houses, machines and weather that ship with Warmeter and stand in for real ones."""
