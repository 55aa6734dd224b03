"""Shape changes stacked on a part. None is known yet: a piece that asks for one is refused, naming it."""

KINDS: frozenset[str] = frozenset()
