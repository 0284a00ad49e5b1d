"""Audiences: criteria with a name, who was picked by hand, the clearance, and why somebody gets it or not."""
