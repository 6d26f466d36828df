"""Signatures: a machine's runs and the finish setting they prove."""
