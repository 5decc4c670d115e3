"""Theme, and small widgets that every page uses."""
