"""Benchmarks: ratios against a reference run beside ours, and what the page feels like."""
