"""Words in pictures: where they stand, and whether a copy still shows them."""
