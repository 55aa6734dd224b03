"""Kinds of long work, one a file: what a job of the kind is given, what it computes, what of it is kept."""
