"""Pages of any document as pictures: drawn, in fewer colours, written to TIFF."""
