"""Use cases without Qt: one short function or class for each thing a user does."""
