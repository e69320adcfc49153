"""All tests of the project."""

import os

from hypothesis import settings

# How long an example takes says nothing on a machine that does other things as well.
settings.register_profile("suite", deadline=None)
settings.load_profile("suite")
# A step of ours that fails is left out of a copy; here it fails the test.
os.environ.setdefault("GREEN_SATCHEL_STRICT", "1")
