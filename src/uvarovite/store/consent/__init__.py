"""The ledger and its fold, what is closed for an address, the suppression list."""
