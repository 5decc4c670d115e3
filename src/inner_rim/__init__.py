"""Inner Rim: plan and record tubeless conversions of bicycle wheels."""

__version__ = "0.1.0"
