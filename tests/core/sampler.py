"""Irradiance by another tracer, for the heart's to be held against."""

from typing import Any

from tools.dense_light import at_point


def brute_force(worked: Any, order: int, index: int, name: str = "occlusal") -> float:
    """Return irradiance at a point by rays of a general-purpose library: all that stands in the way, all that is placed."""
    return at_point(worked, order, worked.lit.cured[order].lit.points[index], name)
