"""Jobs that re-encode pictures, in workers and with a cache."""
