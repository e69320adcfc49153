"""The file as objects: opening, what each object is for, what leads where, writing."""
