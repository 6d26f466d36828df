"""Sensors: what a reading means, which of several counts, what damp air does at cold places."""
