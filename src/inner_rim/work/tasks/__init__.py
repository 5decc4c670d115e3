"""Use cases of the bench, without Qt."""
