"""The pages beside the bench, one a file."""
