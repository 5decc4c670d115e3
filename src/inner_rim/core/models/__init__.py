"""The models of `docs/models.md`, one a file: short, pure functions."""
