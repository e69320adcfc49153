"""One folder a document format; none knows another."""
