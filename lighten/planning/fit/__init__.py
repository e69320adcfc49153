"""Fitting to a limit: candidates of each picture, and the choice among them."""
