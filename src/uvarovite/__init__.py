"""Uvarovite: personalised bulk e-mail to people who asked for it. ARCHITECTURE.md is the map."""
