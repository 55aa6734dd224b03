"""From a piece to a solid: lists combined in order, kept by what shapes them; drafts, large pieces and the view."""
