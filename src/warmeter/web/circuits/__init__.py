"""Circuits, mats and their tests."""
