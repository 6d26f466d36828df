"""Radio sensors that nobody has named: what was heard, which one is whose, and which one follows after a battery change."""
