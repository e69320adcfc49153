"""Values of the core: weights, treatments, plans, proofs, presets, trials, limits; as JSON too."""
