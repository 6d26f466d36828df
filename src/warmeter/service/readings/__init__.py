"""Logs read in, held and handed out."""
