"""Saving what is edited: once, by one at a time, with a reason where one is evidence, and under names that go on to hold."""
