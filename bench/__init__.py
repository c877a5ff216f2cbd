"""Benchmarks: each prints ratios measured in one run."""
