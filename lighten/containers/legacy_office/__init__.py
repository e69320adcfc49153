"""Office files in the form of before 2007, which are brought to the open form of their kind.

The modules are imported by name: most of them load libraries that only such files need.
"""
