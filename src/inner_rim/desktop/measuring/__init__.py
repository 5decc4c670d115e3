"""A caliper and a gauge at the window."""
