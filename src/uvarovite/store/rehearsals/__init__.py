"""Rehearsals, and the schema that each has."""
