"""Contacts: their records, fields, tags, and what was changed in them."""
