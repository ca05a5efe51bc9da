"""How many examples hypothesis tries.

The suite tries the same examples every time, so that it says the same of the same code. EXPLORE=1 looks for new ones, and for
longer; DEEP=1 tries the laws of changes on many more.
"""

import os

from hypothesis import HealthCheck, settings

EXPLORE = bool(os.environ.get("EXPLORE"))
DEEP = bool(os.environ.get("DEEP"))


def examples(many: int) -> settings:
    """For a law that wants more or fewer examples than others. `many` in the deep suite, half of them in the usual one."""
    return settings(max_examples=many * 8 if EXPLORE else many if DEEP else max(many // 2, 10))


settings.register_profile(
    "suite",
    deadline=None,
    derandomize=not EXPLORE,
    max_examples=400 if EXPLORE else 100 if DEEP else 30,
    report_multiple_bugs=False,
    suppress_health_check=[HealthCheck.too_slow],
)
settings.load_profile("suite")
ON_STATES = settings(max_examples=10_000 if DEEP else 60)
"""For the laws of changes: on so many generated states of sites."""
