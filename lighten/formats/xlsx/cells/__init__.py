"""The rows of a sheet as bytes: taken apart, counted, and written in fewer."""
