"""The heart of Apt Mallet: a case goes in, a plan comes out.

Pure computation. Imports no web framework and no interface code.
"""

ENGINE = "0.16.0"
