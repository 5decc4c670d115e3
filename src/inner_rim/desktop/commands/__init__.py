"""The table of commands, and the list of keys made from it."""
