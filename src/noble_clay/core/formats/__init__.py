"""Reading and writing files: STL, 3MF, OBJ, PLY, GLB and piece files."""
