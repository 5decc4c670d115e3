"""Painted views."""
