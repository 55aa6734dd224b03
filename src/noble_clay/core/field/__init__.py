"""Signed distance fields, negative inside: of primitives and meshes, sampled only where a surface will be."""
