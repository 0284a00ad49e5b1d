"""People who work here."""
