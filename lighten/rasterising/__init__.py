"""Pages of any document as pictures: drawn, in fewer colours, written to TIFF."""

from lighten.rasterising.rasterise import Rasterised, RasterPage, rasterise

__all__ = ["RasterPage", "Rasterised", "rasterise"]
