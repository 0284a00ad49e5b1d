"""People and programs that work here: accounts, sessions, tokens, and what they did."""
