"""Scores of a copy against its original, and checks of text and strokes in it."""
