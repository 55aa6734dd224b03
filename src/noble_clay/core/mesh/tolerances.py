"""The tolerances that several rooms share, each with its unit and its reason. What only one step needs stands there.

A piece is a few to a few hundred mm, at most 100,000 mm from the middle (`fields.MAX_COORDINATE`), and a float64 of
such a number is exact to about 1e-11 mm; a float32, as files hold it, to about 1e-5 mm at 100 mm.
"""

from __future__ import annotations

CONTACT = 1e-5
"""mm. Distances below this count as contact: about what a file's float32 can tell apart in a piece of common size."""

SLIVER = CONTACT / 2
"""mm. Shells that are thinner in the mean are what rounding leaves where curved faces coincide."""

HAIR = 1e-6
"""mm. How far something is moved past a plane that it touches, or a ray begins off its surface: a tenth of contact, so
that it changes no finding, and a thousand times what rounding explains.
"""

ROUNDING = 1e-9
"""mm. Differences of coordinates that rounding alone explains: binary fractions of a maker's decimals, turned."""

SHARE = 1e-9
"""The same as a share: of volumes, lengths and numbers around 1 that were worked out in two ways."""

UNIT = 1e-12
"""Of the components of unit vectors and rotation matrices: what is nearer to 0 or 1 than this is that."""

SOME = 1e-300
"""The least divisor: keeps nothing divided by nothing finite, where the result is not used."""
