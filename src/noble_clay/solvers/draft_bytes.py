"""A draft as bytes for the socket: the length of a JSON head (uint32, little-endian), the head, and the moving mesh.

The head says which joined skin the draft is drawn into, by its key, inside which box, and which part every index of
the mesh means.
"""

from __future__ import annotations

import json
import struct

from noble_clay.core.evaluate.drafts import Draft
from noble_clay.core.mesh.packed import mesh_blocks


def draft_bytes(draft: Draft, on: str | None) -> bytes:
    """The draft, to be drawn into the skin with the key `on`; without a box it is the whole."""
    mesh, part_of, parts = draft.solid.mesh_with_parts()
    box = None if draft.box is None else draft.box.tolist()
    head = json.dumps({"parts": parts, "on": on, "box": box}).encode()
    head += b" " * (-len(head) % 4)  # numbers after it stay aligned
    return b"".join([struct.pack("<I", len(head)), head, *mesh_blocks(mesh, part_of)])
