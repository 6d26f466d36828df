"""Rules at work: what is true when, when a rule fires, what holds it back, and when it is put back."""
