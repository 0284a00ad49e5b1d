"""For recipients, without a log-in: opens, clicks, and leaving."""
