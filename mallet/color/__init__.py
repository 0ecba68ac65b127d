"""Color of layered composite: spectra, differences, layers that scatter and absorb, and what comes nearest to a target."""
