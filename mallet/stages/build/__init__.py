"""Building the restoration, one module a material. Composite comes first."""
