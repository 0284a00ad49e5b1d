"""The computation: pure functions over values. No I/O, no clock, no randomness, no settings."""
