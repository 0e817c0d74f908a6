"""Data packages: what was measured and concluded, with the raw logs, for somebody else to check."""
