"""The curing light: its beam, what reaches a point, what a mass needs, and whole presses.

Imports terms, rulebook, tooth and cavity.
"""
