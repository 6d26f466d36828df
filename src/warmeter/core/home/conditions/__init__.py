"""What a rule can look at: one module a kind, with its fields, its words and both ways of evaluating it.

A new kind is a new module here: what it is called in a document, what a first slot offers for it, how it first stands,
its sentence, its truth over arrays and, for the reference, watched from instant to instant. Conditions are joined as
*all of any*: every clause must hold, a clause holds where one of its conditions does. A condition may name a part that
is gone: the home loads, and the rule has a finding.
"""
