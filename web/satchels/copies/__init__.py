"""Runs, copies, their downloads, share links and slips."""
