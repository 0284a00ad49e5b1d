"""Audiences: who is in them by criteria and by hand, and who was at one moment."""
