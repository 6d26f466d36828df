"""Tests of rooms warmed ahead."""
