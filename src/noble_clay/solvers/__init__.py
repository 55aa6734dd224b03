"""The interactive processes: each evaluates pieces, holds their caches, and answers over a pipe."""
