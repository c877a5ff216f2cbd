"""The plan: for each backdrop and breakpoint the stage, the cut and the rungs.

Made from the brief and the sources' heads by arithmetic alone; no pixel is decoded.
"""
