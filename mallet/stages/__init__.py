"""The order of work, one module a stage: what is decided, checked and done.

Each stage is a function of the case and of what was settled before it. Imports everything below.
"""
