"""Curing: what is lit, whoever asks for it: portions, the adhesive film, what a band shaded, and the pulp's warmth."""
