"""Work outside the web process: the solvers that evaluate pieces, and the reader of strangers' files."""
