"""Whether a piece prints and stands, how long it takes, and what it needs: over the mesh as it will be written."""
