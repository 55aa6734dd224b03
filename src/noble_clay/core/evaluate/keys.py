"""Content keys: the hash of what shapes a part or list of parts, not its name or colour."""

from __future__ import annotations

import hashlib
import json
from typing import Any

from noble_clay.core.piece.models import Join, Part

MOST_KNOWN = 20_000
"""Parts whose keys are remembered."""


class Keys:
    """Keys of parts, each hashed once: pieces share the parts that an edit left as they were."""

    def __init__(self) -> None:
        # By identity, which is quick; the part is kept too, so that no other can take its place.
        self._geometry: dict[int, tuple[Part, str]] = {}
        self._part: dict[int, tuple[Part, str]] = {}

    def geometry(self, part: Part) -> str:
        """Of what shapes a part in its own frame, its changes with it: not its place."""
        known = self._geometry.get(id(part))
        if known is not None and known[0] is part:
            return known[1]
        key = self.changed(part, len(part.changes))
        _remember(self._geometry, part, key)
        return key

    def changed(self, part: Part, count: int) -> str:
        """Of a part in its own frame after the first `count` of its changes."""
        on = [change for change in part.changes[:count] if not change.off]
        if part.primitive is not None:
            key = hashed(["primitive", part.primitive.model_dump(mode="json")])
        elif part.mesh is not None:
            key = hashed(["mesh", part.mesh.asset])
        else:
            assert part.join is not None
            key = self.join(part.join)
        return hashed(["changed", key, *(c.model_dump(mode="json") for c in on)]) if on else key

    def join(self, join: Join) -> str:
        """Of what a join becomes."""
        key = self.parts(join.parts)
        return hashed(["blend", join.blend, join.fineness, key]) if join.soft else key

    def part(self, part: Part) -> str:
        """Of what shapes a part in its parent's frame. It holds ids, since a solid knows its parts by them."""
        known = self._part.get(id(part))
        if known is not None and known[0] is part:
            return known[1]
        copies = part.copies.model_dump(mode="json") if part.copies else None
        place = part.place.model_dump(mode="json")
        blend = [] if part.blend is None else [part.blend]
        key = hashed(["part", part.id, self.geometry(part), part.op, place, sorted(part.flip), copies, *blend])
        _remember(self._part, part, key)
        return key

    def parts(self, parts: tuple[Part, ...]) -> str:
        """Of what a list of parts becomes."""
        return hashed(["list", *(self.part(p) for p in parts if not p.reference)])


def _remember(known: dict[int, tuple[Part, str]], part: Part, key: str) -> None:
    if len(known) > MOST_KNOWN:
        known.clear()
    known[id(part)] = part, key


def hashed(values: list[Any]) -> str:
    """The SHA-256 of JSON values."""
    return hashlib.sha256(json.dumps(values, separators=(",", ":")).encode()).hexdigest()
