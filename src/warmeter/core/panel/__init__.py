"""Panels of lamps and buttons: what a lamp says, when a button may be pressed."""
