"""What holds for every test: nothing hangs on chance or on how busy the machine is."""

from hypothesis import settings

# Examples are drawn alike in every run, and none fails for being slow on a machine that has other work.
settings.register_profile("steady", deadline=None, derandomize=True)
settings.load_profile("steady")
