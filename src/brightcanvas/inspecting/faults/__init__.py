"""The faults, one module each."""
