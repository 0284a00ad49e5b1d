"""People from files: looked at first, written as a whole or not at all, undone as a whole."""
