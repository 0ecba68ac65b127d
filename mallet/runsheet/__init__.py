"""The run sheet: steps in order for two people, with start times, and the big numbers.

Imports everything below; the case's stages have been settled before it is called.
"""
