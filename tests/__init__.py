"""All tests of the project."""

from hypothesis import settings

# How long an example takes says nothing on a machine that does other things as well.
settings.register_profile("suite", deadline=None)
settings.load_profile("suite")
