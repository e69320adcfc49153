"""Bytes to arrays and back, one module a coding; nothing here knows where a picture is used."""
