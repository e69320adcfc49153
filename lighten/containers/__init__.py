"""What office formats share: zip archives, packages, the pictures in them, and their proof."""
