"""What picture files carry besides their picture: Exif, XMP, captions, and programs' own data."""
