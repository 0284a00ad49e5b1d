"""Contacts: one person, the fields that all have, duplicates, and what is kept for how long."""
