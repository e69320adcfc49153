"""What `benchmarks.fuzz` is made of: sound files, faults to plant in them, other readers."""
