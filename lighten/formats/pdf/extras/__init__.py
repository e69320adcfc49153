"""Removable parts of a PDF, and their removal."""
