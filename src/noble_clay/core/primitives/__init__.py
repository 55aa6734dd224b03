"""The parametric primitives, one a file; `registry` lists them."""
