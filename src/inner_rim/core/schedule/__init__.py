"""The day of the shop: opening hours, and who does what when."""
