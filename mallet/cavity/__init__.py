"""Solids: the crown, the preparation, what fills it, and what can be measured and drawn of them.

Imports terms, rulebook and tooth.
"""
