"""Pure geometry: which boxes an element takes, what of a picture they show, which cut serves.

No pixel is touched here. Everything is arithmetic on sizes, so a plan is instant and
can be checked against brute force.
"""
