"""Installs, starts, tests and examines Coombe. Standard library only: it runs before anything is installed."""
