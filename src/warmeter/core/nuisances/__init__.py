"""What a person who begins with one nuisance says, and how a home grows from it without a plan.

Each way in is one command: what it asks, and what it adds. What comes of the log is told by the other packages.
"""
