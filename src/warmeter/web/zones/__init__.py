"""Zones: rooms, sensors, heaters and owners on one sheet; checks; one zone or several."""
