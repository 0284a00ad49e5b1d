"""One function is one transaction: load, let the core decide, save. No network in here."""
