"""The slow work: frozen tasks, each a pure function from its fields and inputs to a result.

A task is a frozen dataclass. Among its fields may be other tasks: they are its inputs, and
their results are handed to it when it runs. Its key is worked out from all of its fields (see
``keys``), so nobody keeps a list of what decides a result beside the code that reads it.
"""
