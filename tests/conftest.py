"""What all tests share."""

from hypothesis import settings

# How long an example takes depends on what else the machine is doing; no test is about that.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
