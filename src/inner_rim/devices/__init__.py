"""Measuring tools on a serial line: what they say, who listens, and simulators that play it without one."""
