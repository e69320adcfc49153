"""Faults of a copy that no score of the whole shows: lost or added ink, softness, other colours."""
