"""What matters in a home: one ranked list of dangers, faults, unknowns, money and waits, and what to measure next.

It does not compute rooms, machines or tariffs: it weighs what those already know of.
"""
