"""The document: what a piece is, how it is read, and how it is edited."""
