"""Shape changes stacked on a part, one a file; `registry` lists them."""
