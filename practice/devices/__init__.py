"""Instruments that the practice may plug in, each behind an interface that a simulated one serves too."""
