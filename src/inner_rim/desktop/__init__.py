"""The window: PyQt6 views over the bench, one file per page, widget or model."""
