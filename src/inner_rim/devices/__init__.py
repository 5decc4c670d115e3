"""Measuring tools on a serial line: what they say, who listens, and stand-ins that say it without a tool."""
