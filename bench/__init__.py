"""Measurements. Each file is one; it prints ratios within one run, medians, and what they mean."""
