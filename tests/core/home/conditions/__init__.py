"""Tests of kinds of condition."""
