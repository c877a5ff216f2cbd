"""Clips: their facts and frames in, files without sound and metadata out."""
