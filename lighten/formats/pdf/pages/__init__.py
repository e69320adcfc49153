"""Drawing of pages: placements of pictures, paths, and pages as files of their own."""
