"""The bench page and its panels."""
