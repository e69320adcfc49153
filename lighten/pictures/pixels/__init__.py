"""Arrays of pixels: resampling, colours, filters, thresholds, and classes of pictures."""
