"""Code that office formats share: zip archives, packages, their pictures and their proof."""
