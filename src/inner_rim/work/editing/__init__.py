"""The bench as composed parts: jobs while they are typed, undo, the log, agreement with the store,
settings.
"""
