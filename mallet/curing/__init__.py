"""Curing: what is lit, whoever asks for it: increments, the adhesive layer, what a band shaded, and the pulp's warmth."""
