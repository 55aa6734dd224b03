"""Finding what is wrong with a mesh, and mending it: one step a file, arrays in, arrays and a record out."""
