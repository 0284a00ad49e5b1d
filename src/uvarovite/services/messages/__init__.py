"""Messages: their versions and checks, a person's own message, tests."""
