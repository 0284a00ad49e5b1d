"""Whose installation it is: its facts, what pickers offer, its relays, how often a person is written to."""
