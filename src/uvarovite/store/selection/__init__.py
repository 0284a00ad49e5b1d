"""The table of contacts, and statements about those who were chosen in it."""
