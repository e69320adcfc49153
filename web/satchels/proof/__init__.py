"""Proofs of copies, for the loupe and as pages."""
