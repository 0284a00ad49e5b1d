"""Campaigns and their runs, and who was cleared when somebody looked."""
