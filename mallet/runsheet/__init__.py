"""The run sheet: steps in order for two people, with start times, and what they and the restoration come to.

What a restorative wants done has been settled before it is called.
"""
