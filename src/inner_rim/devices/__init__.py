"""Measuring tools on a serial line: their protocol, the reader, and simulators."""
