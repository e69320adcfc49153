"""Fonts: which letters are in use, subsets, and equal fonts brought together."""
