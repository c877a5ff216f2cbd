"""Clips: which still stands for one, where it loops, whether it flashes, how light it can be."""
