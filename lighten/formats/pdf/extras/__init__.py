"""What a PDF can do without, and how it is left out."""
