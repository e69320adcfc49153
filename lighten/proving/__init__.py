"""A copy against its original, through readers that had no part in making it."""
