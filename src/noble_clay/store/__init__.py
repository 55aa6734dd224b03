"""What is kept, in PostgreSQL: pieces, their edits, and brought-in meshes."""
