"""Warm-up: what a log taught, measured against modelled, lead times by outdoor temperature."""
