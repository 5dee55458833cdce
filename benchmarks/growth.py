"""How what was measured grows with the size of the work, told at the end of a run."""

from __future__ import annotations

from math import log
from typing import Any

MORE = 0.15
"""A row may grow by so much more of a power than its work does: machines are noisy."""


def grows(benchmark: Any, size: int, *, by: float) -> None:
    """Say what the size of a row's work is, and by which power of it the row may grow."""
    benchmark.extra_info["size"] = size
    benchmark.extra_info["by"] = by


def growth(rows: list[tuple[int, float]]) -> float:
    """The power of the size by which times (s) grow: the slope of a line through their logarithms (least squares)."""
    x, y = [log(size) for size, _ in rows], [log(max(time, 1e-9)) for _, time in rows]
    mean_x, mean_y = sum(x) / len(x), sum(y) / len(y)
    over = sum((a - mean_x) ** 2 for a in x)
    return sum((a - mean_x) * (b - mean_y) for a, b in zip(x, y)) / over if over else 0.0


def told(benchmarks: list[Any]) -> list[str]:
    """A line for each row that was measured at several sizes."""
    rows: dict[str, list[tuple[int, float]]] = {}
    may: dict[str, float] = {}
    for made in benchmarks:
        if "size" in made.extra_info and not made.has_error:
            name = made.name.partition("[")[0].removeprefix("test_").replace("_", " ")
            rows.setdefault(name, []).append((made.extra_info["size"], made.stats.min))
            may[name] = made.extra_info["by"]
    out = []
    for name, times in rows.items():
        if len(times) < 2:
            continue
        found = growth(times)
        shown = ", ".join(f"{size}: {time * 1000:.3g} ms" for size, time in sorted(times))
        grew = "  MORE THAN ITS WORK" if found > may[name] + MORE else ""
        out.append(f"{name:44} {shown}; by the power {found:.2f} of {may[name]:g}{grew}")
    return out
