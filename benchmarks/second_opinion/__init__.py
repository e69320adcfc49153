"""Copies held against their originals by readers that had no part in making or proving them."""
