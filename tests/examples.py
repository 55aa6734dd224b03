"""How much property tests try: the same few examples in every run, and by `./test --long` many more, new ones each
time.
"""

from __future__ import annotations

from hypothesis import HealthCheck, settings

LONG = 12
"""How many times as many a long run tries."""


def choose_profile(long: bool) -> None:
    """Before tests are collected: which of the two runs this is."""
    # What an example takes depends on the machine and on what is compiled: neither is a reason to fail.
    common = settings(deadline=None, suppress_health_check=list(HealthCheck), database=None)
    settings.register_profile("short", common, derandomize=True)
    settings.register_profile("long", common, print_blob=True)
    settings.load_profile("long" if long else "short")


def how_many(few: int) -> int:
    """`few`, and in a long run `LONG` times as many."""
    return few * LONG if settings.get_current_profile_name() == "long" else few


def examples(few: int) -> settings:
    """For a test that tries `few` examples, and in a long run `LONG` times as many."""
    return settings(max_examples=how_many(few))
