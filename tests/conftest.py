"""What all tests share."""

import os

from hypothesis import settings

# How long an example takes depends on what else the machine is doing; no test is about that. What chance may find is
# looked for at home: the same commit passes again where it has passed.
settings.register_profile("untimed", deadline=None, derandomize="CI" in os.environ)
settings.load_profile("untimed")
