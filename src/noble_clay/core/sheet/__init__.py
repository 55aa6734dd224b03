"""The making-of sheet: how a piece is built and printed, so that another maker can do the same."""
