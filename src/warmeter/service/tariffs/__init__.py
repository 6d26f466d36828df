"""Prices, bills, tariffs compared, from what the store holds."""
