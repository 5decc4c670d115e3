"""Outlines in mm for the drawings."""
