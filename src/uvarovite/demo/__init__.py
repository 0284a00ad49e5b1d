"""The Skarn Valley Mineral Museum: invented people, letters and campaigns, the same for the same seed."""
