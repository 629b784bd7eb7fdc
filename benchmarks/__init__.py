"""Benchmarks: ratios against a bare minimum in the same run. ``./run bench [name ...]``."""
