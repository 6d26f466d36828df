"""Stand-in machines: a month of a machine's power from a seed, with the truth about every cycle.

They say what a machine of that kind could draw, not what any machine on sale draws.
"""
