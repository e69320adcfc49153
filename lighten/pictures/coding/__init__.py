"""Stored and coded pictures, their decoding, and the choice of an encoding."""
