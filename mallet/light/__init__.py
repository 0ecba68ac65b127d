"""The curing light: its beam, what reaches a point, what a composite needs, and whole curing cycles.

Imports terms, rulebook, tooth and cavity.
"""
