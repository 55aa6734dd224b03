"""A draft as bytes for the socket: the length of a JSON head (uint32, little-endian), the head, and the moving mesh.

The head names what stands still by the keys of mesh files, and which part every index of each mesh means.
"""

from __future__ import annotations

import json
import struct

from noble_clay.core.solid.draft import Draft, Still
from noble_clay.jobs.mesh_files import MeshFiles, mesh_blocks


def draft_bytes(draft: Draft, files: MeshFiles) -> bytes:
    """The draft; meshes of what stands still are written to `files` when they are not there."""
    mesh, part_of, parts = draft.moving.mesh_with_parts()
    head = json.dumps({"parts": parts, "still": [_kept(still, files) for still in draft.still]}).encode()
    head += b" " * (-len(head) % 4)  # numbers after it stay aligned
    return b"".join([struct.pack("<I", len(head)), head, *mesh_blocks(mesh, part_of)])


def _kept(still: Still, files: MeshFiles) -> dict[str, object]:
    parts = still.solid.part_names
    if not files.has(still.key):
        mesh, part_of, _ = still.solid.mesh_with_parts()
        files.write(still.key, mesh, part_of)
    return {"key": still.key, "parts": parts}
