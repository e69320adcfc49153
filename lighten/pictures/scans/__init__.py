"""Scanned pages in layers: paper, strokes and pictures (mixed raster content, after ITU-T T.44)."""
