"""Rehearsals of campaigns."""
