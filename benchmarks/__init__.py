"""Benchmarks: ratios measured side by side in one run."""
