"""Loose pictures put together to one document, a page each."""
