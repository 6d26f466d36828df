"""Tests of the plan of the day."""
