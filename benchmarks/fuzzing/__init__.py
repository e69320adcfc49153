"""Parts of `benchmarks.fuzz`: sound files, faults to plant in them, other readers."""
