"""Campaigns: who, words and pace, what stands in the way, the release."""
