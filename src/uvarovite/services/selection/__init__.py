"""The table of contacts, and what is done with the people who are chosen in it."""
