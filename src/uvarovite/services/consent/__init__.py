"""Who agreed to what: topics, the ledger by hand, what is closed for an address, the suppression list, a person's record."""
