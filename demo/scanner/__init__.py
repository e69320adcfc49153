"""A scanner that is not there: the open protocol eSCL, spoken over paper made by code."""
