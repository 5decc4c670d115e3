"""Where a wheel stands, from its plan and its log."""
