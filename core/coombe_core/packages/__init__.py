"""Data packages: what was measured and concluded, with the logs, for somebody else to check."""
