"""One picture engine for all formats: what a picture is, how large it must be, how it is coded."""
