"""From a piece to a solid: placing, copies, joins, caching, and which part every triangle came from."""
