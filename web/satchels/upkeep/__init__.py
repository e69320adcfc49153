"""Quotas, recovery of lost work, removal of leftovers, and checks of the installation."""
