"""Criteria as text and as rows, and help while they are written."""
