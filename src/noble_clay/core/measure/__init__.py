"""Measures of solids: mass properties, contacts, and what a join did."""
