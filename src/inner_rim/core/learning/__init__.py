"""What the shop's own log teaches: pure functions from evidence to figures with their spread
(docs/models.md 2.11).
"""
