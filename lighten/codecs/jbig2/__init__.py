"""JBIG2 (ITU-T T.88): two tones without loss, letters coded by their likeness to one another."""

from lighten.codecs.jbig2.encode import encode_jbig2

__all__ = ["encode_jbig2"]
