"""Rooms on one fan."""
