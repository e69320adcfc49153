"""Metadata of picture files: Exif, XMP, captions, and data of programs."""
