"""Storing: the worker's thread, the data file and its backups, exchange with files."""
